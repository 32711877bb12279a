import type { Schema } from '../../api/client'
import { Button } from '../../ui/Button'
import { actWords, clockWords, isTelling } from './practiceWords'

interface Props {
  harm: Schema['HarmOut']
  acts: Schema['ActIn'][]
  /** An act in words. */
  wordsOf?: (act: Schema['ActIn']) => string
  onBack: () => void
  onGoOn: () => void
}

/** What went wrong, which act led there, and the step that says why; the clock stands until somebody has read it. */
export function WentWrong({ harm, acts, wordsOf = actWords, onBack, onGoOn }: Props) {
  const act = acts[harm.act]
  const ago = act ? harm.at_s - act.at_s : 0
  return (
    <section role="alert" aria-label="Something went wrong" className="rounded-md border-2 border-oxide bg-sheet p-4">
      <h2 className="text-lead font-bold text-oxide">{harm.says}</h2>
      {act && (
        <p className="mt-1.5">
          What led there: <strong>{wordsOf(act)}</strong>, {clockWords(ago).slice(3)} before, your act{' '}
          {acts.slice(0, harm.act + 1).filter((one) => !isTelling(one)).length}.
        </p>
      )}
      <p className="mt-2 border-l-4 border-copper pl-2.5">
        <span className="text-fine text-soft">{harm.read.title}</span>
        <br />
        <strong>{harm.read.do}</strong> {harm.read.caution || harm.read.why}
      </p>
      <p className="mt-3 flex gap-2">
        {act && (
          <Button look="main" onClick={onBack}>
            Back to before that act
          </Button>
        )}
        <Button onClick={onGoOn}>Let it happen</Button>
      </p>
    </section>
  )
}
