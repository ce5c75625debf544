/** Painting the rulers on a canvas: thousands of blocks, anew in every frame. */
import { prefixText, type Extent, type Root } from './blocks'
import { inWindow, type Block, type Column, type Lane } from './lanes'

export const LANE_HEIGHT = 34
export const AXIS_HEIGHT = 22
export const FREE_HEIGHT = 24
const INSET = 3 // per level of nesting
const LEAST_WIDTH = 2
const LABEL_WIDTH = 46 // a narrower block stays without words
const MOST_TICKS = 12

export interface Scene {
  root: Root
  window: Extent
  lanes: readonly Lane[] // those in sight
  columns: readonly Column[]
  gaps: readonly Extent[]
  drawn: Extent | null // what is being drawn to be reserved
  chosen: string // kind and id of the block under the cursor
  width: number
  height: number
}

export interface Palette {
  ink: string
  muted: string
  line: string
  card: string
  verdigris: string
  verdigrisWash: string
  madder: string
  madderWash: string
  ochre: string
  ochreWash: string
  slate: string
  words: string
  figures: string
}

/** The colours of the theme in force. */
export function paletteOf(element: Element): Palette {
  const style = getComputedStyle(element)
  const token = (name: string) => style.getPropertyValue(`--${name}`).trim()
  return {
    ink: token('ink'),
    muted: token('muted'),
    line: token('line'),
    card: token('card'),
    verdigris: token('verdigris'),
    verdigrisWash: token('verdigris-wash'),
    madder: token('madder'),
    madderWash: token('madder-wash'),
    ochre: token('ochre'),
    ochreWash: token('ochre-wash'),
    slate: token('slate'),
    words: token('words'),
    figures: token('figures'),
  }
}

/** Where a unit stands, in pixels from the left. */
export function xOf(scene: Pick<Scene, 'window' | 'width'>, unit: number): number {
  return ((unit - scene.window.first) / scene.window.size) * scene.width
}
/** Which unit stands at a place, in pixels from the left. */
export function unitAt(scene: Pick<Scene, 'window' | 'width'>, x: number): number {
  return scene.window.first + (x / scene.width) * scene.window.size
}

export function paint(context: CanvasRenderingContext2D, scene: Scene, palette: Palette): void {
  context.clearRect(0, 0, scene.width, scene.height)
  context.textBaseline = 'middle'
  paintAxis(context, scene, palette)
  paintFree(context, scene, palette)
  scene.lanes.forEach((lane, at) =>
    paintLane(context, scene, palette, lane, AXIS_HEIGHT + FREE_HEIGHT + at * LANE_HEIGHT),
  )
  paintColumns(context, scene, palette)
}

/** The boundaries of aligned blocks that are a good distance apart. */
export function ticksOf(window: Extent, root: Root): Extent[] {
  let size = 1
  while (window.size / size > MOST_TICKS) size *= 2
  const found: Extent[] = []
  const until = Math.min(window.first + window.size, root.units)
  for (let first = Math.ceil(window.first / size) * size; first < until; first += size)
    found.push({ first, size })
  return found
}

function paintAxis(context: CanvasRenderingContext2D, scene: Scene, palette: Palette): void {
  context.font = `11px ${palette.figures}`
  let free = 0 // from where the next label may stand
  for (const tick of ticksOf(scene.window, scene.root)) {
    const x = Math.round(xOf(scene, tick.first)) + 0.5
    context.strokeStyle = palette.line
    context.beginPath()
    context.moveTo(x, AXIS_HEIGHT - 5)
    context.lineTo(x, scene.height)
    context.stroke()
    const label = prefixText(scene.root, tick)
    const width = context.measureText(label).width
    if (x < free || x + width > scene.width) continue
    context.fillStyle = palette.muted
    context.fillText(label, x + 2, AXIS_HEIGHT / 2)
    free = x + width + 14
  }
}

function boxOf(scene: Scene, extent: Extent): { x: number; width: number } {
  const left = Math.max(xOf(scene, extent.first), -1)
  const right = Math.min(xOf(scene, extent.first + extent.size), scene.width + 1)
  return { x: left, width: Math.max(right - left, LEAST_WIDTH) }
}

function paintColumns(context: CanvasRenderingContext2D, scene: Scene, palette: Palette): void {
  const rows = new Map(scene.lanes.map((lane, at) => [lane.siteId, at]))
  context.lineWidth = 2
  context.setLineDash([5, 3])
  for (const column of inWindow(scene.columns, scene.window)) {
    const at = column.lanes.map((siteId) => rows.get(siteId) ?? -1).sort((a, b) => a - b)
    if ((at[1] ?? -1) < 0) continue
    const top = AXIS_HEIGHT + FREE_HEIGHT
    const bottom = top + ((at[1] ?? 0) + 1) * LANE_HEIGHT
    const { x, width } = boxOf(scene, column)
    context.globalAlpha = 0.14
    context.fillStyle = palette.madder
    context.fillRect(x, top, width, bottom - top)
    context.globalAlpha = 1
    context.strokeStyle = palette.madder
    context.strokeRect(Math.round(x) - 1, top + 1, Math.max(Math.round(width), 2) + 2, bottom - top - 2)
  }
  context.lineWidth = 1
  context.setLineDash([])
}

function paintFree(context: CanvasRenderingContext2D, scene: Scene, palette: Palette): void {
  const top = AXIS_HEIGHT
  for (const gap of inWindow(scene.gaps, scene.window)) {
    const { x, width } = boxOf(scene, gap)
    context.fillStyle = palette.verdigrisWash
    context.fillRect(x, top + 3, width, FREE_HEIGHT - 6)
    context.strokeStyle = palette.verdigris
    context.setLineDash([1, 3])
    context.strokeRect(x + 0.5, top + 3.5, Math.max(width - 1, 1), FREE_HEIGHT - 7)
    context.setLineDash([])
  }
  if (!scene.drawn) return
  const { x, width } = boxOf(scene, scene.drawn)
  context.fillStyle = palette.verdigris
  context.fillRect(x, top + 1, width, FREE_HEIGHT - 2)
  context.globalAlpha = 0.12
  context.fillRect(x, top, width, scene.height - top)
  context.globalAlpha = 1
}

function paintLane(
  context: CanvasRenderingContext2D,
  scene: Scene,
  palette: Palette,
  lane: Lane,
  top: number,
): void {
  context.strokeStyle = palette.line
  context.beginPath()
  context.moveTo(0, top + LANE_HEIGHT - 0.5)
  context.lineTo(scene.width, top + LANE_HEIGHT - 0.5)
  context.stroke()
  let painted = -1 // many blocks that share a pixel are painted once
  for (const block of inWindow(lane.blocks, scene.window)) {
    const { x, width } = boxOf(scene, block)
    const right = Math.round(x + width)
    if (width <= LEAST_WIDTH && right === painted && !block.collides) continue
    painted = right
    paintBlock(context, scene, palette, block, {
      x,
      width,
      top: top + 3 + block.depth * INSET,
      height: LANE_HEIGHT - 7 - 2 * block.depth * INSET,
    })
  }
}

interface Box {
  x: number
  width: number
  top: number
  height: number
}

function paintBlock(
  context: CanvasRenderingContext2D,
  scene: Scene,
  palette: Palette,
  block: Block,
  box: Box,
): void {
  const height = Math.max(box.height, 6)
  const edge = block.collides
    ? palette.madder
    : { network: palette.verdigris, reserved: palette.slate, shown: palette.ochre }[block.kind]
  context.fillStyle = block.kind === 'network' && !block.zone ? palette.card : palette.ochreWash
  if (block.kind === 'reserved') context.fillStyle = palette.card
  context.fillRect(box.x, box.top, box.width, height)
  context.fillStyle = edge
  if (block.kind !== 'reserved') context.fillRect(box.x, box.top, Math.min(3, box.width), height)
  context.strokeStyle = edge
  context.lineWidth = scene.chosen === `${block.kind} ${block.id}` ? 2 : 1
  if (block.kind === 'reserved') context.setLineDash([4, 3])
  if (block.kind === 'shown') context.setLineDash([2, 2])
  context.strokeRect(box.x + 0.5, box.top + 0.5, Math.max(box.width - 1, 1), height - 1)
  context.setLineDash([])
  context.lineWidth = 1
  if (box.width < LABEL_WIDTH) return
  paintWords(context, palette, block, { ...box, height })
}

/** The name, and below it the prefix where there is room; cut off at the block's end. */
function paintWords(context: CanvasRenderingContext2D, palette: Palette, block: Block, box: Box): void {
  const left = Math.max(box.x, 0) + 7
  context.save()
  context.beginPath()
  context.rect(box.x, box.top, box.width - 3, box.height)
  context.clip()
  context.fillStyle = palette.ink
  context.font = `12px ${palette.words}`
  const two = box.height >= 26
  context.fillText(block.name, left, box.top + (two ? 8 : box.height / 2))
  context.font = `11px ${palette.figures}`
  context.fillStyle = palette.muted
  if (two) context.fillText(block.text, left, box.top + 20)
  context.restore()
}
