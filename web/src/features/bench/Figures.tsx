import type { Course } from './Courses'

interface Props {
  years: number[]
  courses: Course[]
  /** What is done in each life, in words. */
  lives: string[]
}

/** The courses as a table, every two years. */
export function Figures({ years, courses, lives }: Props) {
  const rows = years.flatMap((year, at) => (year % 2 === 0 ? [{ year, at }] : []))
  return (
    <div tabIndex={0} role="region" aria-label="Figures by year" className="h-full overflow-auto pr-3">
      {lives.map((words, number) => (
        <table key={number} className="mb-4 w-full border-collapse text-fine">
          <caption className="pb-1 text-left font-bold">{words}</caption>
          <thead>
            <tr className="border-b border-ink text-left align-bottom">
              <th scope="col">Year</th>
              {courses.map((one) => (
                <th key={one.name} scope="col" className="pl-2 text-right">
                  {one.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(({ year, at }) => (
              <tr key={year} className="border-b border-line">
                <th scope="row" className="text-left">
                  {year}
                </th>
                {courses.map((one) => (
                  <td key={one.name} className="pl-2 text-right whitespace-nowrap">
                    {one.words(one.lines[number]![at]!)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      ))}
    </div>
  )
}
