/** The name of a page on its tab and in the browser's history: what is looked at first, then the program. */
export function PageTitle({ of }: { of: string }) {
  return <title>{`${of} · Aquifer`}</title>
}
