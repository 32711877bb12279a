/** How often chance is tried: in a check that somebody waits for, and in a long one (`./check --long`). */
export const runs = (number: number, ofLong: number) => (process.env.AQUIFER_CHECK_LONG ? ofLong : number)
