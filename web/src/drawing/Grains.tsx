/** Deposit as it is drawn everywhere: a pattern of grains, to fill by its id. */
export const Grains = ({ id }: { id: string }) => (
  <pattern id={id} width="9" height="9" patternUnits="userSpaceOnUse">
    <rect width="9" height="9" className="fill-ochre" />
    <circle cx="2" cy="3" r="0.9" className="fill-ochre-deep" />
    <circle cx="6.5" cy="7" r="0.8" className="fill-ochre-deep" />
  </pattern>
)
