export type SheetName = 'light' | 'night'

/** The inks of one sheet. Pages and canvases take their colours from here and nowhere else. */
export interface Sheet {
  readonly paper: string
  readonly paperDeep: string
  readonly card: string
  readonly ink: string
  readonly inkSoft: string
  readonly line: string
  readonly lineStrong: string
  readonly accent: string
  readonly onAccent: string
  readonly warning: string
  /** Full density of a strip. */
  readonly density: string
  readonly area: string
}

export const SHEETS: Readonly<Record<SheetName, Sheet>> = {
  light: {
    paper: '#f5f0e5',
    paperDeep: '#ebe4d3',
    card: '#faf7ef',
    ink: '#1f2429',
    inkSoft: '#595a55',
    line: '#d6cdb8',
    lineStrong: '#8b8474',
    accent: '#0d5a61',
    onAccent: '#fbf8f1',
    warning: '#9a3a1d',
    density: '#2a2f33',
    area: '#ddd5c3',
  },
  night: {
    paper: '#14181c',
    paperDeep: '#1d2329',
    card: '#1a2026',
    ink: '#ece4d2',
    inkSoft: '#a8a292',
    line: '#333a40',
    lineStrong: '#787567',
    accent: '#79c3c2',
    onAccent: '#10181a',
    warning: '#eb9468',
    density: '#e4dcc8',
    area: '#29313a',
  },
}

/** Gives the page the colours of a sheet, as CSS variables. */
export function layOut(name: SheetName): void {
  const style = document.documentElement.style
  for (const [key, value] of Object.entries(SHEETS[name])) style.setProperty(`--${key}`, value)
  style.setProperty('color-scheme', name === 'night' ? 'dark' : 'light')
}

export const FIGURE_FONT = '12.5px "Source Code Pro", monospace'
