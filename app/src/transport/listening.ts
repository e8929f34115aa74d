import type { Edit, Session } from '@sober-prism/core/session'
import { asRendered, MIX } from '@sober-prism/core/treatments'
import type { Desk, Elsewhere, FrequencyRange, HeardRendition } from '@sober-prism/engine'
import { formatHz, signed } from '../format'
import { type InterfaceState, interfaceActions } from '../store/interface-slice'
import { nodeName, openSession } from '../store/selectors'
import { sessionActions } from '../store/session-slice'
import type { AppStore } from '../store/store'
import { POSITION_WORDS } from './channels'
import { playbackWhere } from './playbacks'

const WITHOUT = {
  treatment: 'one treatment',
  stage: 'one stage',
  chain: 'one chain',
  all: 'everything',
}

/** What is heard in place of the session. */
function heardText({ rendition, gainDb }: HeardRendition, session: Session): string {
  if (gainDb === null) return 'Matching loudness…'
  if (rendition.kind === 'finding') return 'a finding'
  if (rendition.kind === 'band') {
    return rendition.way === 'only' ? 'only one band' : 'all but one band'
  }
  if (rendition.kind === 'region') {
    return `one region, ${formatHz(rendition.fromHz)} to ${formatHz(rendition.toHz)}`
  }
  if (rendition.kind === 'reference') {
    const name = session.references.find((r) => r.id === rendition.reference)?.name
    return `${name ?? 'a reference'} at equal loudness, ${signed(gainDb)} dB${rangeText(rendition.range)}`
  }
  if (rendition.kind === 'chain') {
    return `${nodeName(session, rendition.node)} with ${rendition.name}, ${signed(gainDb)} LU to match`
  }
  if (rendition.kind === 'range') {
    const name = rendition.node === MIX ? 'the mix' : nodeName(session, rendition.node)
    return `${name}${rangeText(rendition.range)}`
  }
  if (rendition.kind === 'variation') {
    return `${variationName(session, rendition.variation)}, ${signed(gainDb)} dB to match`
  }
  if (rendition.kind === 'blind') return 'a blind test'
  if (rendition.kind === 'hunt') return 'hunting with a narrow boost'
  if (rendition.kind === 'difference') {
    return `only what ${WITHOUT[rendition.target.of]} changes`
  }
  return `${WITHOUT[rendition.target.of]} bypassed, ${gainDb >= 0 ? '+' : ''}${signed(gainDb)} LU to match`
}

/** How a variation is called, or the session as it came. */
function variationName(session: Session, id: string): string {
  const found = session.variations.list.find((v) => v.id === id)
  return found ? `${found.number} ${found.name}` : 'As it came'
}

function rangeText(range: FrequencyRange | null): string {
  return range ? `, only ${formatHz(range.fromHz)} to ${formatHz(range.toHz)}` : ''
}

/** Everything that is switched on for listening only, in words; empty when one hears what would be rendered. */
export function listeningWords(
  session: Session,
  { listening, eyesClosed }: Pick<InterfaceState, 'listening' | 'eyesClosed'>,
  heard: HeardRendition | null,
  through: Elsewhere | null,
): string[] {
  const nodes = [...session.tracks, ...session.groups]
  const letters = (key: 'solo' | 'lift') => nodes.filter((n) => n[key]).map((n) => n.letter)
  const [soloed, lifted] = [letters('solo'), letters('lift')]
  return [
    heard ? heardText(heard, session) : '',
    soloed.length > 0 ? `solo ${soloed.join(' ')}` : '',
    lifted.length > 0 ? `lift ${lifted.join(' ')}` : '',
    ...soloedBands(session).map(({ name, bands }) => `only band ${bands.join(' ')} of ${name}`),
    POSITION_WORDS[listening.position],
    through ? throughText(through) : '',
    listening.dim ? 'dim' : '',
    eyesClosed ? 'eyes closed' : '',
  ].filter(Boolean)
}

/** What everything is heard through. */
function throughText({ choice, gainDb, trouble }: Elsewhere): string {
  if (trouble) return trouble
  const where = playbackWhere(choice)
  return gainDb === null
    ? `${where}, matching loudness…`
    : `${where}, ${signed(gainDb)} dB to match`
}

/** Splits some of whose bands are heard alone, with the number of those bands. */
function soloedBands(session: Session) {
  const nodes = [...session.tracks, ...session.groups]
  const chains = [
    ...nodes.map(({ id, name, chain }) => ({ id, name, chain })),
    { id: MIX, name: 'the mix', chain: session.mix.chain },
  ]
  return chains.flatMap(({ id, name, chain }) =>
    chain.treatments.flatMap((treatment) => {
      if (treatment.kind !== 'split' || !treatment.on) return []
      const bands = treatment.params.bands.flatMap((b, i) => (b.solo ? [i + 1] : []))
      return bands.length > 0 ? [{ id, name, treatment, bands }] : []
    }),
  )
}

/** One hears what would be rendered again. */
export function clearListening(store: AppStore, desk: Desk): void {
  const session = openSession(store.getState())
  const edits: Edit[] = [
    ...[...session.tracks, ...session.groups]
      .filter((n) => n.solo || n.lift)
      .map(
        (n) => ({ kind: 'set-node', node: n.id, change: { solo: false, lift: false } }) as const,
      ),
    ...soloedBands(session).map(({ id, treatment: { id: treatment, kind, params } }) => {
      const change = { params: asRendered(kind, params) }
      return { kind: 'set-treatment', node: id, treatment, change } as const
    }),
  ]
  if (edits.length > 0) store.dispatch(sessionActions.edited(edits, { listening: true }))
  store.dispatch(interfaceActions.listeningCleared())
  desk.stopHearing()
  desk.elsewhere.set(null)
}
