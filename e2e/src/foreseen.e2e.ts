import { describe, expect, it } from 'vitest'
import { opened } from './opened'
import { measured, openDemo } from './session-page'

const at = opened(openDemo)

/** What tests see of the open session. */
interface Shown {
  readonly soberPrism: {
    readonly desk: {
      readonly analyser: {
        readonly ahead: { change(changes: readonly []): Promise<unknown> }
        readonly state: {
          readonly value: Analysis
          watch(onChange: () => void): () => void
        }
      }
    }
  }
}

interface Analysis {
  readonly foreseen: boolean
  readonly fresh: boolean
  readonly heard: ReadonlyMap<string, { readonly share: number }>
}

interface Seen {
  /** Milliseconds from the edit. */
  readonly at: number
  readonly foreseen: boolean
  readonly fresh: boolean
  readonly heard: readonly (readonly [id: string, share: number])[]
}

interface Notes {
  readonly seen: Seen[]
  /** Shares on the page that were marked as predicted. */
  readonly marked: string[]
}

/** Notes what the analysis and the page show from now on, until all is measured again. */
const note = () =>
  at.page.evaluate(async () => {
    const { ahead, state } = (window as unknown as Shown).soberPrism.desk.analyser
    // An empty question is answered when it has taken in what was measured.
    await ahead.change([])
    const seen: Seen[] = []
    const marked: string[] = []
    const from = performance.now()
    const observer = new MutationObserver(() => {
      const texts = document.evaluate("//text()[starts-with(., '≈ ')]", document.body)
      for (let node = texts.iterateNext(); node; node = texts.iterateNext()) {
        marked.push(node.parentElement?.textContent ?? '')
      }
    })
    observer.observe(document.body, { subtree: true, childList: true, characterData: true })
    const notes = new Promise<Notes>((resolve) => {
      const stop = state.watch(() => {
        const { foreseen, fresh, heard } = state.value
        const shares = [...heard].map(([id, { share }]) => [id, share] as const)
        seen.push({ at: performance.now() - from, foreseen, fresh, heard: shares })
        if (!fresh || seen.length < 2) return
        stop()
        observer.disconnect()
        resolve({ seen, marked })
      })
    })
    Object.assign(window, { notes })
  })
const noted = () => at.page.evaluate(() => (window as unknown as { notes: Promise<Notes> }).notes)

describe('after a move', () => {
  it('what it does is shown at once as predicted, and stays when it is measured', async () => {
    const before = await at.page.evaluate(() =>
      [...(window as unknown as Shown).soberPrism.desk.analyser.state.value.heard].map(
        ([id, { share }]) => [id, share] as const,
      ),
    )
    const fader = at.page.getByRole('slider', { name: 'Fader of Accordion, dB' })
    await fader.focus()
    await note()
    await fader.press('PageDown')
    const { seen, marked } = await noted()
    await measured(at.page)
    expect(marked.find((text) => /^≈ \d+ %$/.test(text))).toBeDefined()
    expect(await at.page.getByText(/^≈ /).count()).toBe(0)
    const first = seen.find((s) => s.foreseen)
    const told = seen.find(
      (s) => s.foreseen && s.heard.some(([, share], i) => share !== before[i][1]),
    )
    const last = seen.at(-1)
    console.log(
      `levels after ${first?.at.toFixed(0)} ms, shares after ${told?.at.toFixed(0)} ms, all measured after ${last?.at.toFixed(0)} ms`,
    )
    expect(told?.at).toBeLessThan(last?.at ?? 0)
    let moved = 0
    for (const [i, [id, share]] of (last?.heard ?? []).entries()) {
      const [toldId, toldShare] = told?.heard[i] ?? ['', Number.NaN]
      expect(toldId).toBe(id)
      expect(Math.abs(toldShare - share)).toBeLessThan(0.01)
      moved = Math.max(moved, Math.abs(share - before[i][1]))
    }
    expect(moved).toBeGreaterThan(0.01)
    expect(at.problems).toEqual([])
  })
})
