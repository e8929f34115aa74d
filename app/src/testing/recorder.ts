import { SHEETS } from '../plot/inks'
import type { Surface } from '../plot/plot'

type Point = readonly [x: number, y: number]

/** A line as it was drawn: its points, and with what. */
export interface DrawnStroke {
  readonly points: readonly Point[]
  readonly ink: string
  readonly lineWidth: number
  readonly dash: readonly number[]
}

interface DrawnBox {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
  readonly ink: string
  readonly alpha: number
}

interface DrawnText {
  readonly text: string
  readonly x: number
  readonly y: number
  readonly ink: string
}

/** What was drawn on a surface, in order. */
export interface Drawing {
  readonly strokes: DrawnStroke[]
  readonly fills: { readonly points: readonly Point[]; readonly ink: string }[]
  readonly boxes: DrawnBox[]
  readonly texts: DrawnText[]
  readonly images: { readonly x: number; readonly y: number; readonly width: number }[]
  /** Gradients by the name that stands for them as an ink. */
  readonly gradients: Map<string, readonly (readonly [at: number, colour: string])[]>
}

/** A surface whose context draws nothing and keeps what it was told. */
export function recorder(
  width = 600,
  height = 200,
  sheet: keyof typeof SHEETS = 'light',
): { surface: Surface; drawing: Drawing } {
  const drawing: Drawing = {
    strokes: [],
    fills: [],
    boxes: [],
    texts: [],
    images: [],
    gradients: new Map(),
  }
  let points: Point[] = []
  let dash: readonly number[] = []
  const pen = { strokeStyle: '', fillStyle: '', lineWidth: 1, globalAlpha: 1 }
  const add = (x: number, y: number) => {
    points.push([x, y])
  }
  const context = Object.assign(pen, {
    beginPath() {
      points = []
    },
    moveTo: add,
    lineTo: add,
    rect: (x: number, y: number, w: number, h: number) => {
      add(x, y)
      add(x + w, y + h)
    },
    arc: add,
    closePath() {},
    clip() {},
    save() {},
    restore() {},
    setLineDash(next: readonly number[]) {
      dash = next
    },
    stroke() {
      const { strokeStyle: ink, lineWidth } = pen
      drawing.strokes.push({ points: [...points], ink, lineWidth, dash })
    },
    fill() {
      drawing.fills.push({ points: [...points], ink: pen.fillStyle })
    },
    fillRect(x: number, y: number, w: number, h: number) {
      const { fillStyle: ink, globalAlpha: alpha } = pen
      drawing.boxes.push({ x, y, width: w, height: h, ink, alpha })
    },
    strokeRect(x: number, y: number, w: number, h: number) {
      const { strokeStyle: ink, globalAlpha: alpha } = pen
      drawing.boxes.push({ x, y, width: w, height: h, ink, alpha })
    },
    fillText(text: string, x: number, y: number) {
      drawing.texts.push({ text, x, y, ink: pen.fillStyle })
    },
    measureText: (text: string) => ({ width: 7 * text.length }),
    drawImage(_: unknown, x: number, y: number, w: number) {
      drawing.images.push({ x, y, width: w })
    },
    createLinearGradient() {
      const name = `gradient ${drawing.gradients.size}`
      const stops: [number, string][] = []
      drawing.gradients.set(name, stops)
      return {
        addColorStop: (at: number, colour: string) => stops.push([at, colour]),
        toString: () => name,
      }
    },
  })
  // A gradient as an ink goes by its name.
  const named = new Proxy(context, {
    set: (target, key, value) => Reflect.set(target, key, key === 'fillStyle' ? `${value}` : value),
  })
  const surface = {
    context: named as unknown as CanvasRenderingContext2D,
    width,
    height,
    sheet: SHEETS[sheet],
    night: sheet === 'night',
  }
  return { surface, drawing }
}

/** Where a drawn line stands at a place across, between its points. */
export function heightAt({ points }: Pick<DrawnStroke, 'points'>, x: number): number {
  const at = points.findIndex(([px]) => px >= x)
  if (at < 0) throw new Error(`The line ends before ${x}.`)
  if (at === 0) return points[0][1]
  const [[x0, y0], [x1, y1]] = [points[at - 1], points[at]]
  return y0 + ((x - x0) / (x1 - x0)) * (y1 - y0)
}
