import type { FilterType } from '@sober-prism/core/filters'
import { hasGain, newBand } from '@sober-prism/core/filters'
import {
  chainOf,
  type Edit,
  ROLES,
  type Session,
  type WithoutTarget,
} from '@sober-prism/core/session'
import { MIX, newChainBand } from '@sober-prism/core/treatments'
import { type Desk, errorSentence } from '@sober-prism/engine'
import { capital } from '../format'
import { plumb } from '../plot/plumb'
import { rulerSpan, WHOLE_RULER } from '../plot/ruler'
import { TYPE_NAMES } from '../sheet/names'
import { redo, undo } from '../store/history'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, chosenNodes, openSession, shownTreatment } from '../store/selectors'
import { sessionActions } from '../store/session-slice'
import type { AppStore } from '../store/store'
import { hearCompared, heardReference } from '../tracks/compared'
import {
  fadersAtZero,
  grouped,
  ledBy,
  type Switch,
  switched,
  withRole,
} from '../tracks/track-edits'
import { POSITION_WORDS } from '../transport/channels'
import { clearListening } from '../transport/listening'
import { DESCRIBED, hearThrough, playbackWhere, switchPlayback } from '../transport/playbacks'
import type { OpenSession } from './desk-context'
import { press } from './press'

/** Where commands act. */
export interface CommandPlace {
  readonly store: AppStore
  readonly open: OpenSession
  go(step: string): void
}

/** Something that can be done here, by name and often by a key. */
export interface Command {
  readonly name: string
  readonly group: 'Actions' | 'Listening' | 'Tracks' | 'Bands' | 'Session' | 'View' | 'Go to'
  /** As `KeyboardEvent.key` in lower case; with `Ctrl+`, `Shift+` or `Alt+` before it. */
  readonly key?: string
  run(): void
}

/** All commands, and with them all keys of the app. */
export function commandsAt({ store, open, go }: CommandPlace): readonly Command[] {
  const { desk } = open
  const { dispatch } = store
  const root = () => store.getState()
  const session = () => openSession(root())
  const tell = (error: unknown) =>
    void dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
  const edit = (edits: readonly Edit[], listening = false) =>
    void dispatch(sessionActions.edited(edits, { listening }))

  /** Hears the session without something, or goes back where that is heard already. */
  const compare = (target: WithoutTarget | null) => {
    const now = desk.heard.value?.rendition
    const isHeard = now && 'target' in now && isSame(now.target, target)
    if (!target || isHeard) desk.stopHearing()
    else desk.hear({ kind: 'without', target }).catch(tell)
  }
  const difference = () => {
    const now = desk.heard.value?.rendition
    if (!now || !('target' in now)) return
    const kind = now.kind === 'without' ? 'difference' : 'without'
    desk.hear({ kind, target: now.target }).catch(tell)
  }
  /** Edits of all that is selected; what has none changes nothing. */
  const toSelected = (
    edits: (session: Session, ids: readonly string[]) => Edit[],
    listening = false,
  ) => {
    const made = edits(session(), chosenNodes(root()))
    if (made.length > 0) edit(made, listening)
  }
  const toggleNodes = (key: Switch) =>
    toSelected((now, ids) => switched(now, ids, key), key !== 'mute')
  /** The treatment on the sheet of what is chosen. */
  const treatmentNow = () => {
    const node = chosenNode(root())
    const shown = shownTreatment(chainOf(session(), node)?.treatments ?? [], root().interface)
    return shown && { node, treatment: shown.id, on: shown.on }
  }
  const switchTreatment = () => {
    const now = treatmentNow()
    if (!now) return
    const { node, treatment, on } = now
    edit([{ kind: 'set-treatment', node, treatment, change: { on: !on } }])
  }
  const removeTreatment = () => {
    const now = treatmentNow()
    if (now) edit([{ kind: 'remove-treatment', node: now.node, treatment: now.treatment }])
  }
  const walk = (step: 1 | -1) => {
    const order = [...session().tracks.map((t) => t.id), ...session().groups.map((g) => g.id), MIX]
    const at = order.indexOf(chosenNode(root()))
    dispatch(interfaceActions.nodeChosen(order[(at + step + order.length) % order.length]))
  }
  const addBand = (type: FilterType) => {
    const { stage, treatmentId } = root().interface
    const node = chosenNode(root())
    const treatments = chainOf(session(), node)?.treatments ?? []
    const shown = shownTreatment(treatments, { stage, treatmentId })
    const chainBand = newChainBand(crypto.randomUUID(), newBand(type, plumb.value ?? 1000))
    const treatment = shown?.kind === 'equaliser' ? shown.id : null
    edit([
      { kind: 'add-band', node, stage, treatment, newTreatment: crypto.randomUUID(), chainBand },
    ])
    dispatch(interfaceActions.bandChosen(chainBand.id))
  }
  const cutBy = (db: number) => {
    const { bandId } = root().interface
    const node = chosenNode(root())
    for (const { id, kind, params } of chainOf(session(), node)?.treatments ?? []) {
      if (kind !== 'equaliser') continue
      const chainBand = params.bands.find((m) => m.id === bandId)
      if (!chainBand || !hasGain(chainBand.band.type)) continue
      const change = { band: { db: -db } }
      return edit([{ kind: 'set-band', node, treatment: id, band: chainBand.id, change }])
    }
  }
  const play = async () => {
    if (desk.player.playing) return desk.player.pause()
    await desk.player.play().catch(tell)
  }
  return [
    { group: 'Listening', name: 'Play or pause', key: ' ', run: () => void play() },
    {
      group: 'Listening',
      name: 'Go to start',
      key: 'home',
      run: () => desk.player.seek(session().passage?.fromFrame ?? 0),
    },
    {
      group: 'Listening',
      name: 'Loop on or off',
      run: () => edit([{ kind: 'set-session', change: { loop: !session().loop } }]),
    },
    {
      group: 'Listening',
      name: 'Fair compare: bypass all, at equal loudness',
      key: 'f',
      run: () => compare({ of: 'all' }),
    },
    {
      group: 'Listening',
      name: 'Listen to the next reference in place of the mix',
      key: 'r',
      run: () => nextReference(session(), desk)?.catch(tell),
    },
    {
      group: 'Listening',
      name: 'Bypass the selected treatment',
      key: 't',
      run: () => compare(chosenTarget(store, 'treatment')),
    },
    {
      group: 'Listening',
      name: 'Bypass the selected stage',
      key: 'g',
      run: () => compare(chosenTarget(store, 'stage')),
    },
    {
      group: 'Listening',
      name: 'Bypass this chain',
      key: 'c',
      run: () => compare(chosenTarget(store, 'chain')),
    },
    { group: 'Listening', name: 'Difference only, while comparing', key: 'd', run: difference },
    {
      group: 'Listening',
      name: 'Fold to mono',
      key: 'o',
      run: () => dispatch(interfaceActions.positionSwitched('mono')),
    },
    {
      group: 'Listening',
      name: 'Side signal only',
      key: 'i',
      run: () => dispatch(interfaceActions.positionSwitched('sides')),
    },
    ...(['left', 'right', 'exchanged', 'turned'] as const).map(
      (position): Command => ({
        group: 'Listening',
        name: capital(POSITION_WORDS[position]),
        run: () => dispatch(interfaceActions.positionSwitched(position)),
      }),
    ),
    {
      group: 'Listening',
      name: 'Other playback: the last one, on or off',
      key: 'p',
      run: () => switchPlayback(desk),
    },
    ...DESCRIBED.map(
      (choice): Command => ({
        group: 'Listening',
        name: `Listen ${playbackWhere(choice)}`,
        run: () => hearThrough(desk, choice),
      }),
    ),
    {
      group: 'Listening',
      name: 'Dim by 20 dB',
      key: 'u',
      run: () => dispatch(interfaceActions.dimSwitched()),
    },
    {
      group: 'Listening',
      name: 'Turn off everything for listening only',
      key: '0',
      run: () => clearListening(store, desk),
    },
    { group: 'Tracks', name: 'Mute selected', key: 'm', run: () => toggleNodes('mute') },
    { group: 'Tracks', name: 'Solo selected', key: 's', run: () => toggleNodes('solo') },
    {
      group: 'Tracks',
      name: 'Lift selected by 6 dB',
      key: 'l',
      run: () => toggleNodes('lift'),
    },
    { group: 'Tracks', name: 'Next track', key: 'Alt+arrowdown', run: () => walk(1) },
    { group: 'Tracks', name: 'Previous track', key: 'Alt+arrowup', run: () => walk(-1) },
    { group: 'Tracks', name: 'Group selected tracks', run: () => toSelected(grouped) },
    {
      group: 'Tracks',
      name: 'Make selected tracks leads, or no longer',
      run: () => toSelected(ledBy),
    },
    {
      group: 'Tracks',
      name: 'Faders of selected to 0 dB',
      run: () => toSelected(fadersAtZero),
    },
    ...ROLES.map(
      (role): Command => ({
        group: 'Tracks',
        name: `Role of selected: ${role}`,
        run: () => toSelected((now, ids) => withRole(now, ids, role)),
      }),
    ),
    {
      group: 'Actions',
      name: 'Presets…',
      run: () => dispatch(interfaceActions.presetsSwitched(true)),
    },
    { group: 'Bands', name: 'Switch the selected treatment on or off', run: switchTreatment },
    { group: 'Bands', name: 'Remove the selected treatment', run: removeTreatment },
    ...(['bell', 'low-shelf', 'high-shelf', 'low-cut', 'high-cut', 'notch'] as const).map(
      (type): Command => ({
        group: 'Bands',
        name: `New ${TYPE_NAMES[type].toLowerCase()} at the plumb line`,
        run: () => addBand(type),
      }),
    ),
    ...CUTS.map(
      ([db, key]): Command => ({
        group: 'Bands',
        name: `Cut ${db} dB with the selected band`,
        key,
        run: () => cutBy(db),
      }),
    ),
    { group: 'Session', name: 'Undo', key: 'Ctrl+z', run: () => dispatch(undo()) },
    { group: 'Session', name: 'Redo', key: 'Ctrl+Shift+z', run: () => dispatch(redo()) },
    {
      group: 'Session',
      name: 'Measure again',
      run: () => desk.analyser.restart(),
    },
    {
      group: 'Session',
      name: 'Export the session with its audio',
      run: () => void open.deliver.save(session(), true),
    },
    {
      group: 'Session',
      name: 'Export the session without audio',
      run: () => void open.deliver.save(session(), false),
    },
    ...ON_PAGES.map(
      ([name, step, ...controls]): Command => ({
        group: 'Actions',
        name,
        run: () => {
          // What stands on the open page is pressed there.
          if (!document.querySelector(`[data-command="${controls[0]}"]`)) go(step)
          press(controls, name, dispatch)
        },
      }),
    ),
    {
      group: 'View',
      name: 'Eyes closed: hide all pictures',
      key: 'e',
      run: () => dispatch(interfaceActions.eyesSwitched()),
    },
    {
      group: 'View',
      name: 'Dark or light theme',
      key: 'n',
      run: () => dispatch(interfaceActions.sheetTurned()),
    },
    {
      group: 'View',
      name: 'Hide or show the panel',
      key: 'v',
      run: () => dispatch(interfaceActions.evidenceFolded()),
    },
    {
      group: 'View',
      name: 'Show the whole ruler',
      key: 'w',
      run: () => rulerSpan.set(WHOLE_RULER),
    },
    ...([true, false] as const).map(
      (shown): Command => ({
        group: 'View',
        name: `${shown ? 'Show' : 'Hide'} the equaliser on Survey`,
        run: () => dispatch(interfaceActions.surveySheetShown(shown)),
      }),
    ),
    ...(['hand', 'role', 'lost'] as const).map(
      (order): Command => ({
        group: 'View',
        name: `Tracks ${ORDER_WORDS[order]}`,
        run: () => dispatch(interfaceActions.tracksOrdered(order)),
      }),
    ),
    {
      group: 'View',
      name: 'Show the notes on each step',
      run: () => dispatch(interfaceActions.introsOpened()),
    },
    {
      group: 'View',
      name: 'Find a command or shortcut',
      key: '.',
      run: () => dispatch(interfaceActions.commandsSwitched(true)),
    },
    {
      group: 'View',
      name: 'Help on this step',
      key: '?',
      run: () => dispatch(interfaceActions.helpSwitched(true)),
    },
    { group: 'Go to', name: 'Gather', run: () => go('gather') },
    { group: 'Go to', name: 'Survey', run: () => go('survey') },
    { group: 'Go to', name: 'Clean', run: () => go('clean') },
    { group: 'Go to', name: 'Fit', run: () => go('fit') },
    { group: 'Go to', name: 'Shape', run: () => go('shape') },
    { group: 'Go to', name: 'Check', run: () => go('check') },
    { group: 'Go to', name: 'Deliver', run: () => go('deliver') },
  ]
}

/** What is done by a control on a page: the step where it stands, and what is pressed there. */
const ON_PAGES: readonly (readonly [string, string, ...string[]])[] = [
  ['Import tracks…', 'gather', 'import-tracks'],
  ['Import references…', 'gather', 'import-references'],
  ['Add a test signal…', 'gather', 'test-signal'],
  ['Add a group', 'gather', 'add-group'],
  ['Propose levels', 'gather', 'propose-levels'],
  ['Show findings', 'survey', 'tab-findings'],
  ['Show who is masked by whom', 'survey', 'tab-masking'],
  ['Plan moves', 'survey', 'tab-plan', 'plan'],
  ['Apply the open finding', 'survey', 'tab-findings', 'apply-finding'],
  ['Listen to the open finding', 'survey', 'tab-findings', 'listen-finding'],
  ['Dismiss the open finding', 'survey', 'tab-findings', 'dismiss-finding'],
  ['Hunt resonances by ear', 'clean', 'hunt'],
  ['Sweep a boost from high to low', 'clean', 'sweep'],
  ['Low cut below the lowest note', 'clean', 'low-cut'],
  ['Test ways to make room', 'fit', 'make-room'],
  ['Align with another track', 'fit', 'align'],
  ['Start a manual round', 'fit', 'round'],
  ['Match the selected track to the target', 'shape', 'match'],
  ['Analyse balance', 'shape', 'balance'],
  ['Add a leveller', 'shape', 'leveller'],
  ['Compare two chains', 'shape', 'compare-chains'],
  ['Save a profile of the selected track', 'shape', 'profile'],
  ['Check whether the passage is representative', 'shape', 'passage'],
  ['Keep what stands as a new variation', 'check', 'tab-compare', 'keep-variation'],
  ['Blind test of two variations', 'check', 'tab-blind'],
  ['Second look at the moves', 'check', 'tab-look'],
  ['Render', 'deliver', 'render'],
]

/** Depths of cuts in use, and their keys: the last figure of each. */
const CUTS = [
  [3, '3'],
  [6, '6'],
  [9, '9'],
  [12, '2'],
] as const

const ORDER_WORDS = {
  hand: 'in manual order',
  role: 'Role',
  lost: 'by masking',
} as const

/** Keys that belong to one picture and act where it has the focus. */
export const PLACE_KEYS: readonly (readonly [string, string])[] = [
  ['1 to 9 in Check', 'Listen to a variation; − for the session as it came'],
  ['Arrow keys on a flag', 'Frequency and gain; Shift for fine steps'],
  ['Page Up, Page Down on a flag', 'Narrower, wider'],
  ['Wheel on a flag', 'Narrower, wider; Alt for gain'],
  ['Shift while dragging', 'Fine; Alt for one axis'],
  ['Ctrl with a click or Space on a flag', 'Add the band to the selection'],
  ['Ctrl A on a flag', 'Select all bands of the equaliser'],
  ['Ctrl C, Ctrl V', 'Copy selected bands, and paste them into another chain'],
  ['Delete on a flag', 'Remove the band, or all selected'],
  ['Alt N, Alt P in a round', 'Next track, previous track of the round'],
  ['Arrow keys on the ruler', 'Move the plumb line; Shift for fine steps'],
  ['Enter on the ruler', 'Keep the reading as a mark'],
  ['Wheel, + and − on the ruler', 'Zoom into a part of it, on all pictures'],
  ['Drag the ruler when zoomed', 'Move along it'],
  ['Ctrl or Shift with a click on a track', 'Add it to the selection'],
  ['Right click or the menu key on a track, strip, flag or treatment', 'What can be done with it'],
  ['Wheel on a figure with the focus, drag its label', 'Change it; Shift for fine steps'],
]

/** A key as people read it. */
export function keyText(key: string): string {
  return key
    .replace(/^ $/, 'Space')
    .replace('arrowdown', '↓')
    .replace('arrowup', '↑')
    .replace('home', 'Home')
    .split('+')
    .map((part) => (part.length === 1 ? part.toUpperCase() : part))
    .join(' ')
}

/** The name by which a command's key is found. */
export function keyOf(
  event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>,
): string {
  const ctrl = event.ctrlKey || event.metaKey
  const shift = event.shiftKey && (ctrl || event.altKey)
  return `${ctrl ? 'Ctrl+' : ''}${shift ? 'Shift+' : ''}${event.altKey ? 'Alt+' : ''}${event.key.toLowerCase()}`
}

/** What of the chosen chain stands on the sheet. */
function chosenTarget(store: AppStore, of: 'treatment' | 'stage' | 'chain'): WithoutTarget | null {
  const root = store.getState()
  const node = chosenNode(root)
  if (of === 'chain') return { of, node }
  if (of === 'stage') return { of, node, stage: root.interface.stage }
  const treatments = chainOf(openSession(root), node)?.treatments ?? []
  const shown = shownTreatment(treatments, root.interface)
  return shown && { of, node, treatment: shown.id }
}

function isSame(a: WithoutTarget, b: WithoutTarget | null): boolean {
  return JSON.stringify(a) === JSON.stringify(b)
}

/** Hears the first reference, the one behind the one that is heard, or the mix behind the last. */
function nextReference(session: Session, desk: Desk): Promise<void> | undefined {
  const now = heardReference(desk.heard.value?.rendition)
  const at = now === null ? 0 : session.references.findIndex((r) => r.id === now) + 1
  return hearCompared(desk, session.references[at]?.id ?? null)
}
