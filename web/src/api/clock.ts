/** How far this device's clock is behind the server's, as the last answer told. */
const KEY = 'aquifer.behind_ms'
/** What an answer's date, told in seconds, cannot tell. */
const UNSURE_MS = 2000

export function learn(answered: string | null, now = Date.now()) {
  const told = answered ? Date.parse(answered) : NaN
  if (Number.isNaN(told)) return
  const behind = told - now
  localStorage.setItem(KEY, String(Math.abs(behind) <= UNSURE_MS ? 0 : behind))
}

/** The time, put right by what the server's clock said. */
export const trueNow = () => new Date(Date.now() + Number(localStorage.getItem(KEY) ?? 0))

/** The day that it is at the company. */
export function dayAt(zone: string, at = trueNow()): string {
  const parts = new Intl.DateTimeFormat('en-CA', {
    timeZone: zone,
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
  }).formatToParts(at)
  const of = (type: string) => parts.find((one) => one.type === type)!.value
  return `${of('year')}-${of('month')}-${of('day')}`
}
