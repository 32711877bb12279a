/** The tag that a label's code stands for: an address of ours that ends in it, or the tag alone; null for others'. */
export function tagOf(text: string): string | null {
  const told = text.trim()
  const address = /^https?:\/\/[^/]+\/t\/(.+)$/i.exec(told)
  if (address) return decodeURIComponent(address[1]!)
  return /^[\w.\- /]{1,40}$/.test(told) && !told.includes('//') ? told : null
}
