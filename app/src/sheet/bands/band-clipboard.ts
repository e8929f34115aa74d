import {
  chainOf,
  DocumentError,
  type Edit,
  parseEqFile,
  writeEqFile,
} from '@sober-prism/core/session'
import { newChainBand } from '@sober-prism/core/treatments'
import { useEffect } from 'react'
import { interfaceActions } from '../../store/interface-slice'
import { chosenBands, chosenNode, openSession, shownTreatment } from '../../store/selectors'
import { sessionActions } from '../../store/session-slice'
import type { AppStore } from '../../store/store'
import { store } from '../../store/store'

/** What was copied last, as an EQ file. */
let copied = ''

const counted = (count: number) => (count === 1 ? '1 band' : `${count} bands`)

/** Copies the chosen bands. @returns them as an EQ file; empty where none is chosen. */
export function copyBands({ getState, dispatch }: AppStore): string {
  const bands = chosenBands(getState(), chosenNode(getState()))
  if (bands.length === 0) return ''
  copied = writeEqFile(bands.map((m) => m.band))
  dispatch(interfaceActions.noticeShown(`${counted(bands.length)} copied.`))
  return copied
}

/** Puts bands into the chosen stage of what is chosen, as one step; by default those that were copied last. */
export function pasteBands({ getState, dispatch }: AppStore, text = copied): void {
  if (text === '') return void dispatch(interfaceActions.noticeShown('No bands were copied yet.'))
  const { stage } = getState().interface
  const node = chosenNode(getState())
  const treatments = chainOf(openSession(getState()), node)?.treatments ?? []
  const shown = shownTreatment(treatments, getState().interface)
  const treatment = shown?.kind === 'equaliser' ? shown.id : null
  try {
    const chainBands = parseEqFile(text).map((band) => newChainBand(crypto.randomUUID(), band))
    const newTreatment = crypto.randomUUID()
    const into =
      treatment ??
      treatments.findLast((t) => t.stage === stage && t.kind === 'equaliser')?.id ??
      null
    const edits = chainBands.map(
      (chainBand, i): Edit => ({
        kind: 'add-band',
        node,
        stage,
        treatment: into ?? (i === 0 ? null : newTreatment),
        newTreatment,
        chainBand,
      }),
    )
    dispatch(sessionActions.edited(edits))
    dispatch(interfaceActions.bandsChosen(chainBands.map((m) => m.id)))
    dispatch(interfaceActions.noticeShown(`${counted(chainBands.length)} pasted.`, 'info', 'edit'))
  } catch (error) {
    if (!(error instanceof DocumentError)) throw error
    dispatch(interfaceActions.noticeShown(error.message, 'warning'))
  }
}

/** The page's own copying and pasting carries bands where no text is meant. */
export function useBandClipboard(): void {
  useEffect(() => {
    const onCopy = (event: ClipboardEvent) => {
      if (isText(event.target) || (document.getSelection()?.toString() ?? '') !== '') return
      const text = copyBands(store)
      if (text === '') return
      event.preventDefault()
      event.clipboardData?.setData('text/plain', text)
    }
    const onPaste = (event: ClipboardEvent) => {
      const text = event.clipboardData?.getData('text/plain') ?? ''
      if (isText(event.target) || !text.trimStart().startsWith('{')) return
      event.preventDefault()
      pasteBands(store, text)
    }
    document.addEventListener('copy', onCopy)
    document.addEventListener('paste', onPaste)
    return () => {
      document.removeEventListener('copy', onCopy)
      document.removeEventListener('paste', onPaste)
    }
  }, [])
}

function isText(target: EventTarget | null): boolean {
  return (
    target instanceof Element &&
    target.closest(
      'input:not([type="checkbox"]):not([type="radio"]), textarea, select, [role="dialog"]',
    ) !== null
  )
}
