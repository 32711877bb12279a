/** Where the worked tank stands in its drawing. */
export const TANK = { x: 270, y: 118, wide: 176, tall: 300 }
export const FLOOR = TANK.y + TANK.tall
export const GROUND = 514
