import {
  chainOf,
  DocumentError,
  type Preset,
  parsePresetFile,
  presetEdits,
  writePresetFile,
} from '@sober-prism/core/session'
import {
  deletePreset,
  errorSentence,
  type KeptPreset,
  keepPresets,
  listPresets,
  Signal,
} from '@sober-prism/engine'
import { useCallback, useEffect, useState } from 'react'
import { download } from '../../jobs/download'
import { useSignal } from '../../shell/desk-context'
import { interfaceActions } from '../../store/interface-slice'
import { chosenNodes, openSession, shownTreatment } from '../../store/selectors'
import { store, useAppDispatch, useEdit } from '../../store/store'

/** How often presets were changed on this page: whoever shows them reads them again. */
const changes = new Signal(0)

/** The user's presets and what can be done with any. */
export function usePresets() {
  const changed = useSignal(changes)
  const dispatch = useAppDispatch()
  const edit = useEdit()
  const [kept, setKept] = useState<readonly KeptPreset[] | null>(null)
  const [unreadable, setUnreadable] = useState(0)
  const tell = useCallback(
    (error: unknown) => {
      const text = error instanceof DocumentError ? error.message : errorSentence(error)
      dispatch(interfaceActions.noticeShown(text, 'warning'))
    },
    [dispatch],
  )
  const read = useCallback(async () => {
    const { presets, unreadable: count } = await listPresets()
    setKept(presets)
    setUnreadable(count)
  }, [])
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was changed is read again.
  useEffect(() => void read().catch(tell), [read, tell, changed])
  const then = (work: Promise<unknown>, said?: string) =>
    work
      .then(() => changes.set(changes.value + 1))
      .then(() => said && dispatch(interfaceActions.noticeShown(said)))
      .catch(tell)

  return {
    /** Null until they are read. */
    kept,
    /** Presets that this version cannot read; they stay stored. */
    unreadable,
    keep: (preset: Preset & { id?: string }) =>
      then(keepPresets([preset]), `“${preset.name}” saved.`),
    remove: (preset: KeptPreset) => then(deletePreset(preset.id), `“${preset.name}” removed.`),
    exportFile(presets: readonly Preset[], name: string) {
      const text = writePresetFile(presets)
      download(`${name}.presets.json`, new Blob([text], { type: 'application/json' }))
    },
    async importFile(file: File) {
      try {
        const presets = parsePresetFile(await file.text())
        const said =
          presets.length === 1
            ? '1 preset is in.'
            : `${presets.length} ${presets.length === 1 ? 'preset' : 'presets'} imported.`
        await then(keepPresets(presets), said)
      } catch (error) {
        tell(error)
      }
    },
    /** Brings a preset into the chains of all that is selected: besides what is there, or in the place of the same scope. */
    apply(preset: Preset, way: 'add' | 'replace') {
      const root = store.getState()
      const nodes = chosenNodes(root)
      const [first] = nodes
      const edits = nodes.map((node) => {
        const present = chainOf(openSession(root), node)?.treatments ?? []
        const shown = node === first ? shownTreatment(present, root.interface) : null
        const replaces =
          way === 'add'
            ? 'nothing'
            : preset.scope !== 'treatment'
              ? 'same-scope'
              : shown
                ? { treatment: shown.id }
                : 'nothing'
        const stage = preset.scope === 'chain' ? null : root.interface.stage
        const place = { node, present, stage, replaces } as const
        return presetEdits(preset, place, () => crypto.randomUUID())
      })
      edit(edits.flat())
      const added = edits[0].flatMap((e) => (e.kind === 'add-treatment' ? [e.treatment] : []))
      const [{ id: treatmentId, stage: to }] = added
      dispatch(interfaceActions.treatmentChosen({ treatmentId, stage: to }))
      const where = nodes.length > 1 ? `${nodes.length} chains` : 'the chain'
      dispatch(interfaceActions.noticeShown(`“${preset.name}” added to ${where}.`, 'info', 'edit'))
    },
  }
}
