import check from '../../../docs/check.md?raw'
import clean from '../../../docs/clean.md?raw'
import fit from '../../../docs/fit.md?raw'
import shape from '../../../docs/shape.md?raw'
import using from '../../../docs/using.md?raw'

/** A part of the documentation under one heading, without the parts under lesser ones. */
export interface HelpSection {
  readonly title: string
  /** The page that it is of, by its own title. */
  readonly page: string
  /** 2 for a main section of its page, 3 for one within it. */
  readonly level: number
  readonly text: string
}

/** The pages of docs/ for people, as they are shipped, in the order of work. */
export const HELP: readonly HelpSection[] = [using, clean, fit, shape, check].flatMap(sectionsOf)

/** The section that is about each step. */
const BY_STEP: Readonly<Record<string, string>> = {
  gather: 'Gather',
  survey: 'Survey',
  clean: 'Clean: a walk',
  fit: 'Fit: a walk',
  shape: 'Shape: a walk',
  check: 'Check: a walk',
  deliver: 'Deliver',
}

/** @returns index in {@link HELP} of what is about a step; the first where none is. */
export function sectionFor(step: string): number {
  const title = BY_STEP[step]
  return Math.max(
    0,
    HELP.findIndex((s) => s.title === title),
  )
}

/** Sections that hold all of the words, wherever they stand in it. */
export function found(query: string): readonly HelpSection[] {
  const words = query.toLowerCase().split(/\s+/).filter(Boolean)
  return HELP.filter(({ title, text }) => {
    const all = `${title} ${text}`.toLowerCase()
    return words.every((w) => all.includes(w))
  })
}

function sectionsOf(markdown: string): HelpSection[] {
  const sections: HelpSection[] = []
  let page = ''
  for (const part of markdown.split(/^(?=#{1,3} )/m)) {
    const [, marks, heading, text] = /^(#{1,3}) (.*)\n([\s\S]*)$/.exec(part) ?? []
    if (!marks) continue
    const title = heading.replaceAll('`', '')
    if (marks.length === 1) page = title
    if (text.trim() !== '') sections.push({ title, page, level: marks.length, text: text.trim() })
  }
  return sections
}
