/** "1 heater", "402 heaters". */
export const counted = (count: number, what: string): string => `${count} ${what}${count === 1 ? '' : 's'}`
