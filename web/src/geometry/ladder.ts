/** The lines between two ladders of proposals. All lengths in px. */
export interface Rung {
  left: number
  right: number
}

export const RUNG_HEIGHT = 34
const INSET = 2

/** SVG path from a rung of the left ladder to one of the right ladder. */
export function rungPath(rung: Rung, widthPx: number): string {
  const middle = (at: number) => at * RUNG_HEIGHT + RUNG_HEIGHT / 2
  const bend = widthPx / 2
  const [from, to] = [middle(rung.left), middle(rung.right)]
  return `M${INSET},${from}C${bend},${from},${bend},${to},${widthPx - INSET},${to}`
}

/** Height of the drawing that holds both ladders. */
export function ladderHeight(leftRungs: number, rightRungs: number): number {
  return Math.max(leftRungs, rightRungs, 1) * RUNG_HEIGHT
}
