import type { Schema } from '../../api/client'
import { Button } from '../../ui/Button'
import { Hazard } from '../../ui/States'

interface Props {
  guide: Schema['BenchStepOut']
  /** The next step is on its way. */
  isStale: boolean
  /** What is told of the present step. */
  onTell: (kind: string, to: string) => void
}

/** The step of the trade that comes now; it is done at the drawing, then told here, as at a real heater. */
export function GuideCard({ guide, isStale, onTell }: Props) {
  if (!guide.step)
    return (
      <section aria-label="Guide" className="rounded-md border border-line bg-sheet p-4">
        <p className="font-bold">The guide is at its end.</p>
        <p>Look once more whether all is left right, fill in your notes, and say that you are done.</p>
      </section>
    )
  const held = guide.held[0]
  return (
    <section aria-label="Guide" aria-live="polite" className="rounded-md border border-ink bg-sheet p-4">
      <p className="flex justify-between text-fine text-soft">
        <span>{guide.title}</span>
        <span>step {guide.done + 1}</span>
      </p>
      <p className="mt-1 text-title font-bold">{guide.do}</p>
      {guide.why && <p className="mt-1">{guide.why}</p>}
      {guide.caution && <Hazard className="mt-2">{guide.caution}</Hazard>}
      {guide.expect && <p className="mt-1 text-soft">Expect: {guide.expect}</p>}
      {held ? (
        <div className="mt-3">
          <Hazard>{held.says}</Hazard>
          <Button
            look="main"
            className="mt-2"
            disabled={isStale}
            onClick={() => onTell('settled', `${guide.step}:${held.rule}`)}
          >
            {held.out_says || 'The way out'}
          </Button>
        </div>
      ) : (
        <p className="mt-3 flex flex-wrap gap-x-2 gap-y-1.5">
          <Button look="main" disabled={isStale} onClick={() => onTell('done', guide.step)}>
            Done, as it says
          </Button>
          {guide.deviations.map((one) => (
            <Button
              key={one.choice}
              disabled={isStale}
              className="whitespace-normal"
              onClick={() => onTell('deviation', `${guide.step}:${one.choice}`)}
            >
              {one.says}
            </Button>
          ))}
        </p>
      )}
    </section>
  )
}
