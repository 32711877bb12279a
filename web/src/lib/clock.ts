/** How the company tells a time of the day; known before any page is drawn. */
let twelve = false

export function tellTimesBy(clock: '24' | '12'): void {
  twelve = clock === '12'
}

/** "9:05", or "9:05 am" where the company tells times so. */
export function clock(minutes: number): string {
  const hours = Math.floor(minutes / 60)
  const rest = String(minutes % 60).padStart(2, '0')
  if (!twelve) return `${hours}:${rest}`
  return `${((hours + 11) % 12) + 1}:${rest} ${hours % 24 < 12 ? 'am' : 'pm'}`
}

/** A full hour beside an axis: "9:00", or "9 am". */
export function hour(minutes: number): string {
  return clock(minutes).replace(/:00(?= )/, '')
}

/** Minutes after midnight of "9:05", "9.05", "15" or "3:05 pm"; null for what is no time of day. */
export function minutesOf(text: string): number | null {
  const found = /^\s*(\d{1,2})(?:[:.h ]?(\d{2}))?\s*(?:([ap])\.?m?\.?)?\s*$/i.exec(text)
  if (!found) return null
  const half = found[3]?.toLowerCase()
  let hours = Number(found[1])
  const minutes = Number(found[2] ?? 0)
  if (half && (hours < 1 || hours > 12)) return null
  if (half) hours = (hours % 12) + (half === 'p' ? 12 : 0)
  return hours < 24 && minutes < 60 ? 60 * hours + minutes : null
}
