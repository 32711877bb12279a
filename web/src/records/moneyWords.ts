import type { Schema } from '../api/client'

export const FOLLOW_UPS: Record<Schema['FollowUp'], string> = {
  relief_valve: 'New relief valve',
  anode: 'New anode rod',
  other_anode: 'Another alloy of anode',
  drain_valve: 'New drain valve',
  element: 'New element',
  expansion_tank: 'Expansion tank',
  regulator: 'Pressure regulator',
  softener: 'Softener',
  find_leak: 'Finding the leak',
  heater: 'New heater',
  licensed_work: 'Licensed work',
}

export const STAGES: Record<Schema['QuoteState'], string> = {
  draft: 'draft',
  sent: 'with the customer',
  accepted: 'to be done',
  done: 'done',
  declined: 'declined',
  lapsed: 'lapsed',
  dropped: 'not sent',
}

/** What taking a quote there is called on a button. */
export const STEPS: Record<Schema['QuoteState'], string> = {
  draft: 'Look at it again',
  sent: 'Mark as sent',
  accepted: 'Customer says yes',
  done: 'It is done',
  declined: 'Customer says no',
  lapsed: 'No answer came',
  dropped: 'Do not send it',
}

/** "¤ 1,680", with hundredths only where there are some. Amounts travel as strings; they are never added up here. */
export function amountWords(amount: string, currency: string): string {
  const [whole = '0', part = '00'] = amount.replace('-', '').split('.')
  const sign = amount.startsWith('-') ? '−' : ''
  const grouped = whole.replace(/\B(?=(\d{3})+$)/g, ',')
  return `${sign}${currency} ${grouped}${part === '00' ? '' : `.${part}`}`
}

/** What was typed as an amount, as the server takes it; null for what is none. */
export function amountOf(typed: string): string | null {
  const plain = typed
    .trim()
    .replace(/,(?=\d{3}\b)/g, '')
    .replace(',', '.')
  return /^\d{1,7}(\.\d{1,2})?$/.test(plain) ? plain : null
}
