import { clock } from './clock'

const DAY = 86_400_000
const FIRST = { monday: 1, saturday: 6, sunday: 0 }
/** The day on which the company's weeks begin; known before any page is drawn. */
let first = FIRST.monday

/** What a device kept of the company may be of before it said so: then weeks begin on a Monday. */
export function beginWeeksOn(start: keyof typeof FIRST | undefined): void {
  first = FIRST[start ?? 'monday']
}

/** The first day of the week as the interface numbers weekdays, from Monday's 0. */
export const firstWeekday = () => (first + 6) % 7

/** The first day of a day's week, as the company counts weeks. */
export function weekOf(iso: string): string {
  const at = day(iso)
  return isoDay(at - ((new Date(at).getUTCDay() - first + 7) % 7) * DAY)
}
const month = new Intl.DateTimeFormat('en', { month: 'long', timeZone: 'UTC' })
const shortMonth = new Intl.DateTimeFormat('en', { month: 'short', timeZone: 'UTC' })

/** A calendar day as the milliseconds of its midnight in UTC: days never meet a time zone here. */
export function day(iso: string): number {
  return Date.parse(`${iso}T00:00:00Z`)
}

export function addDays(iso: string, days: number): number {
  return day(iso) + days * DAY
}

export function isoDay(at: number): string {
  return new Date(at).toISOString().slice(0, 10)
}

/** "8 March", with the year where it is not this one. */
export function dateWords(iso: string, today: string): string {
  const at = new Date(day(iso))
  const year = at.getUTCFullYear()
  const plain = `${at.getUTCDate()} ${month.format(at)}`
  return year === new Date(day(today)).getUTCFullYear() ? plain : `${plain} ${year}`
}

/** A text whose days, written as 2020-03-08, are written as people do: "8 March 2020". */
export function withDays(text: string): string {
  return text.replace(/\b\d{4}-\d\d-\d\d\b/g, (iso) => {
    const at = new Date(day(iso))
    // No 31 February is a day of March.
    if (Number.isNaN(at.getTime()) || isoDay(at.getTime()) !== iso) return iso
    return `${at.getUTCDate()} ${month.format(at)} ${at.getUTCFullYear()}`
  })
}

/** "8 Mar", with the year where it is not this one. */
export function shortDate(at: number, today: string): string {
  const date = new Date(at)
  const plain = `${date.getUTCDate()} ${shortMonth.format(date)}`
  return date.getUTCFullYear() === new Date(day(today)).getUTCFullYear() ? plain : `${plain} ${date.getUTCFullYear()}`
}

/** "Jun 2020". */
export function shortMonthYear(at: number): string {
  const date = new Date(at)
  return `${shortMonth.format(date)} ${date.getUTCFullYear()}`
}

/** "June 2020". */
export function monthWords(iso: string): string {
  const at = new Date(day(iso))
  return `${month.format(at)} ${at.getUTCFullYear()}`
}

/** When something is due, as people say it. */
export function dueWords(due: string | null, today: string): string {
  if (!due) return 'not within 30 years'
  const distance = (day(due) - day(today)) / DAY
  // Nobody has it on record for years: the day on which it would have been due says nothing more.
  if (distance < -3 * 365) return 'long overdue'
  if (distance < 0) return `overdue since ${dateWords(due, today)}`
  if (distance < 7) return 'due this week'
  if (distance > 2 * 365) return `about ${monthWords(due)}`
  return `week of ${dateWords(weekOf(due), today)}`
}

/** "23 days", "7 weeks", "14 months", "3 years". */
export function spanWords(days: number): string {
  const length = Math.abs(days)
  if (length < 21) return count(Math.round(length), 'day')
  if (length < 70) return count(Math.round(length / 7), 'week')
  if (length < 700) return count(Math.round(length / 30.44), 'month')
  return count(Math.round(length / 365.25), 'year')
}

/** "1.4 years", "5 months", "over 30 years": how long something lasts. */
export function yearsWords(years: number): string {
  if (years >= 30) return 'over 30 years'
  if (years < 1) return count(Math.max(Math.round(years * 12), 1), 'month')
  return `${years < 10 ? years.toFixed(1) : Math.round(years)} years`
}

function count(n: number, what: string): string {
  return `${n} ${what}${n === 1 ? '' : 's'}`
}

/** Whole years from one day to another: a year is over on its day, not after 365.25 of them. */
export function yearsBetween(from: string, to: string): number {
  const years = Number(to.slice(0, 4)) - Number(from.slice(0, 4))
  return Math.max(0, to.slice(5) < from.slice(5) ? years - 1 : years)
}

/** "7:15", of a moment by the clock of a time zone, as the company tells times. */
export const clockIn = (timezone: string, at: string) => clock(minutesIn(timezone, new Date(at)))

/** Minutes after midnight of a moment, by the clock of a time zone. */
export const minutesIn = (timezone: string, at: Date) => {
  const [hours, minutes] = at
    .toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit', timeZone: timezone })
    .split(':')
  return Number(hours) * 60 + Number(minutes)
}

/** The day of a moment in a time zone, as 2026-11-27. */
export const dayIn = (timezone: string, at: string) => new Date(at).toLocaleDateString('sv-SE', { timeZone: timezone })
