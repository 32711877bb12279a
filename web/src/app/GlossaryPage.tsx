import { GLOSSARY } from '../lib/glossary'
import { phrase } from '../lib/phrases'
import { useCompany } from '../session/session'

/** Every term that a newcomer may not know, in the alphabet's order. */
export function GlossaryPage() {
  const terms = Object.entries(GLOSSARY).toSorted(([one], [other]) => one.localeCompare(other, 'en'))
  const { units } = useCompany()
  return (
    <div role="region" aria-label="Glossary" tabIndex={0} className="h-full overflow-y-auto px-8 py-6">
      <h1 className="text-title font-bold">Glossary</h1>
      <p className="mt-1 text-soft">Where one of these stands underlined with dots, a touch explains it.</p>
      <dl className="mt-5 grid max-w-6xl gap-x-10 gap-y-4 md:grid-cols-2">
        {terms.map(([term, says]) => (
          <div key={term} className="border-l-4 border-line pl-3">
            <dt className="font-bold first-letter:uppercase">{term}</dt>
            <dd className="mt-0.5 max-w-prose">{phrase(says, units)}</dd>
          </div>
        ))}
      </dl>
    </div>
  )
}
