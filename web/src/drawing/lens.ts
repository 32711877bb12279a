/** The probabilities of the quantiles that the server sends for a window; their order is the API's. */
const PROBABILITIES = [0.02, 0.1, 0.25, 0.5, 0.75, 0.9, 0.98]

export interface LensPoint {
  days: number
  /** Half-width, 0 to 1: how likely this day is beside the likeliest. */
  width: number
}

/** A likelihood of this much a day is drawn at full width: a window of about a year. */
const FULL_WIDTH_A_DAY = 1 / 400

/**
 * The outline of a window: thin where unlikely, thickest where likeliest. Between two quantiles the likelihood is the
 * probability over the days, drawn by its root, so that an unsure window is long and thin beside a sure one. What has
 * been reached already stands at day 0. Days beyond the horizon are cut.
 */
export function lensOutline(reachedDays: (number | null)[]): LensPoint[] {
  const known: { days: number; p: number }[] = []
  reachedDays.forEach((days, at) => {
    if (days !== null) known.push({ days, p: PROBABILITIES[at] ?? 1 })
  })
  const first = known[0]
  const last = known.at(-1)
  if (!first || !last) return []
  const reached = known.filter((one) => one.days === 0).at(-1)
  const parts: LensPoint[] = []
  for (let i = 1; i < known.length; i++) {
    const a = known[i - 1]!
    const b = known[i]!
    if (b.days > a.days) parts.push({ days: (a.days + b.days) / 2, width: widthOf((b.p - a.p) / (b.days - a.days)) })
  }
  // What is reached already is drawn as if it fell within the coming weeks.
  const start = reached
    ? [
        { days: 0, width: Math.sqrt(reached.p) },
        { days: 24, width: Math.max(0.25 * Math.sqrt(reached.p), parts[0]?.width ?? 0) },
      ]
    : [{ days: first.days, width: 0 }]
  const tail = parts.filter((part) => part.days > (start.at(-1)?.days ?? 0))
  const end = { days: Math.max(last.days, 30), width: reachedDays.at(-1) === null ? (parts.at(-1)?.width ?? 0) : 0 }
  return [...start, ...tail, end]
}

function widthOf(likelihoodADay: number): number {
  return Math.min(1, Math.sqrt(likelihoodADay / FULL_WIDTH_A_DAY))
}
