import type { z } from 'zod'
import { endOfStage, kindOf, MIX, MOST_BANDS, newTreatment, type Treatment } from '../treatments'
import { chainOf, freeLetter, newGroup, newTrack, routedNode } from './defaults'
import { DocumentError, describeIssue } from './document-error'
import { type Edit, type EditOf, editSchema } from './edit'
import { guessLead } from './guess-role'
import { isFindingKey, isVoice, MOST } from './names'
import { placeOnTimeLine } from './place'
import { cycleSentence, findCycle } from './routing'
import { type Chain, type Session, tooLong } from './schema'
import { keepVariation, removeVariation, takeFromVariation, workInVariation } from './variations'

/**
 * The session after some edits, in order, all or none. What an edit names and is not there any more is passed
 * over: the work of a moment ago must not stand in the way of the next.
 * @throws DocumentError with a sentence when a value is out of range, a limit is met, or a cycle would be closed.
 */
export function applyEdits(session: Session, edits: readonly Edit[]): Session {
  const made = edits.reduce((at, edit) => {
    const parsed = editSchema.safeParse(edit)
    if (!parsed.success) throw describeIssue(parsed.error, 'change')
    return applyEdit(at, parsed.data)
  }, session)
  if (tooLong(made).length > 0) {
    throw new DocumentError(`A session can hold up to ${MOST.hours} hours.`)
  }
  return made
}

function applyEdit(session: Session, edit: Edit): Session {
  switch (edit.kind) {
    case 'set-session':
      return setSession(session, edit)
    case 'add-tracks':
      return addTracks(session, edit)
    case 'add-references':
      return addReferences(session, edit)
    case 'remove-reference':
      return {
        ...session,
        references: session.references.filter((r) => r.id !== edit.reference),
      }
    case 'set-reference':
      return {
        ...session,
        references: session.references.map((r) =>
          r.id === edit.reference ? { ...r, ...defined(edit.change) } : r,
        ),
      }
    case 'add-passage':
      return addPassage(session, edit)
    case 'name-passage':
      return {
        ...session,
        passages: session.passages.map((p) =>
          p.id === edit.passage ? { ...p, name: edit.name } : p,
        ),
      }
    case 'remove-passage':
      return { ...session, passages: session.passages.filter((p) => p.id !== edit.passage) }
    case 'add-group':
      return addGroup(session, edit)
    case 'remove-node':
      return removeNode(session, edit.node)
    case 'set-node':
      return setNode(session, edit)
    case 'set-output':
      return setOutput(session, edit)
    case 'order-track':
      return orderTrack(session, edit)
    case 'set-lead':
      return setLead(session, edit)
    case 'set-chain-output':
      return mapChain(session, edit.node, (chain) => ({
        ...chain,
        output: { ...chain.output, ...defined(edit.change) },
      }))
    case 'change-output-gain':
      return mapChain(session, edit.node, (chain) => {
        const gainDb = heldGain(chain.output.gainDb + edit.db)
        return { ...chain, output: { ...chain.output, gainDb } }
      })
    case 'change-trim': {
      const now = edit.node === MIX ? session.mix : routedNode(session, edit.node)
      if (!now) return session
      const change = { trimDb: heldGain(now.trimDb + edit.db) }
      return setNode(session, { kind: 'set-node', node: edit.node, change })
    }
    case 'add-treatment':
      return addTreatment(session, edit)
    case 'set-treatment':
      return setTreatment(session, edit)
    case 'move-treatment':
      return moveTreatment(session, edit)
    case 'remove-treatment':
      return mapTreatments(session, edit.node, (list) =>
        list.filter((t) => t.id !== edit.treatment),
      )
    case 'add-band':
      return addBand(session, edit)
    case 'set-band':
      return setBand(session, edit)
    case 'remove-band':
      return mapBands(session, edit.node, edit.treatment, (bands) =>
        bands.filter((b) => b.id !== edit.band),
      )
    case 'keep-variation':
      return keepVariation(session, edit)
    case 'work-in-variation':
      return workInVariation(session, edit.variation)
    case 'set-variation': {
      const list = session.variations.list.map((v) =>
        v.id === edit.variation ? { ...v, ...defined(edit.change) } : v,
      )
      return { ...session, variations: { ...session.variations, list } }
    }
    case 'remove-variation':
      return removeVariation(session, edit.variation)
    case 'take-from-variation':
      return refuseCycle(takeFromVariation(session, edit.variation, edit.node))
    case 'keep-blind-test':
      return keepBlindTest(session, edit)
    case 'remove-blind-test':
      return { ...session, blindTests: session.blindTests.filter((t) => t.id !== edit.test) }
    case 'dismiss': {
      const others = session.dismissed.filter((d) => d.key !== edit.dismissed.key)
      // The oldest make room.
      const dismissed = [...others, edit.dismissed].slice(-MOST.dismissed)
      return { ...session, dismissed }
    }
    case 'recall-dismissed':
      return { ...session, dismissed: session.dismissed.filter((d) => !isFindingKey(d.key)) }
  }
}

/** An answer cannot be changed: of a test that is known only answers come in. */
function keepBlindTest(session: Session, { test }: EditOf<'keep-blind-test'>): Session {
  const known = session.blindTests.find((t) => t.id === test.id)
  if (known) {
    const answers = [...known.answers, ...test.answers.slice(known.answers.length)]
    const kept = { ...known, answers: answers.slice(0, known.trials) }
    return {
      ...session,
      blindTests: session.blindTests.map((t) => (t === known ? kept : t)),
    }
  }
  if (session.blindTests.length >= MOST.blindTests) {
    throw new DocumentError(`A session can keep up to ${MOST.blindTests} blind tests.`)
  }
  return { ...session, blindTests: [...session.blindTests, test] }
}

function setSession(session: Session, { change }: EditOf<'set-session'>): Session {
  const { sampleRateHz, ...rest } = defined(change)
  const isEmpty = session.tracks.length === 0 && session.references.length === 0
  return { ...session, ...rest, ...(isEmpty && sampleRateHz !== undefined && { sampleRateHz }) }
}

function addTracks(session: Session, { tracks }: EditOf<'add-tracks'>): Session {
  if (session.tracks.length + tracks.length > MOST.tracks) {
    throw new DocumentError(`A session can hold up to ${MOST.tracks} tracks.`)
  }
  let made = session
  for (const { id, name, role, audio, timeStampSeconds } of tracks) {
    refuseTaken(made, id)
    const place = placeOnTimeLine(made, timeStampSeconds)
    const moved =
      place.moveOthersFrames === 0
        ? made.tracks
        : made.tracks.map((t) => ({
            ...t,
            offsetFrames: t.offsetFrames + place.moveOthersFrames,
          }))
    const letter = freeLetter([...made.tracks, ...made.groups])
    made = {
      ...made,
      timeOriginSeconds: place.timeOriginSeconds,
      tracks: [...moved, newTrack(id, name, role, letter, audio, place.offsetFrames)],
    }
  }
  return tracks.reduce((at, t) => (guessLead(t.name, t.role) ? withLead(at, t.id) : at), made)
}

function addReferences(session: Session, { references }: EditOf<'add-references'>): Session {
  const all = [...session.references, ...references.map((r) => ({ ...r, passage: null }))]
  if (all.length > MOST.references) {
    throw new DocumentError(`A session can hold up to ${MOST.references} references.`)
  }
  return { ...session, references: all }
}

/** A passage of a known id takes that one's place. */
function addPassage(session: Session, { passage }: EditOf<'add-passage'>): Session {
  const others = session.passages.filter((p) => p.id !== passage.id)
  if (others.length >= MOST.passages) {
    throw new DocumentError(`A session can save up to ${MOST.passages} passages.`)
  }
  const passages = [...others, passage].sort((a, b) => a.fromFrame - b.fromFrame)
  return { ...session, passages }
}

/** Leads are tracks of the session. */
function withoutLostLeads(session: Session): Session {
  const leadIds = session.leadIds.filter((id) => session.tracks.some((t) => t.id === id))
  return { ...session, leadIds }
}

/** The session with a track among its leads, as far as there is room. */
function withLead(session: Session, track: string): Session {
  const { leadIds } = session
  if (leadIds.includes(track) || leadIds.length >= MOST.leads) return session
  return { ...session, leadIds: [...leadIds, track] }
}

function addGroup(session: Session, { id, name, members }: EditOf<'add-group'>): Session {
  if (session.groups.length >= MOST.groups) {
    throw new DocumentError(`A session can hold up to ${MOST.groups} groups.`)
  }
  refuseTaken(session, id)
  const output = (members[0] && routedNode(session, members[0])?.output) ?? MIX
  const letter = freeLetter([...session.tracks, ...session.groups])
  const made = { ...session, groups: [...session.groups, newGroup(id, name, letter, output)] }
  return members.reduce((at, node) => setOutput(at, { kind: 'set-output', node, output: id }), made)
}

function refuseTaken(session: Session, id: string): void {
  if (id === MIX || routedNode(session, id)) {
    throw new DocumentError('This track or group is already in the session.')
  }
}

function removeNode(session: Session, id: string): Session {
  const node = routedNode(session, id)
  if (!node) return session
  const rerouted = <N extends { output: string }>(n: N): N =>
    n.output === id ? { ...n, output: node.output } : n
  const silenced = (chain: Chain): Chain =>
    chain.treatments.some((t) => t.key?.node === id)
      ? {
          ...chain,
          treatments: chain.treatments.map((t) => (t.key?.node === id ? { ...t, key: null } : t)),
        }
      : chain
  const kept = <N extends { id: string; output: string; chain: Chain }>(nodes: readonly N[]): N[] =>
    nodes
      .filter((n) => n.id !== id)
      .map((n) => {
        const chain = silenced(n.chain)
        const way = rerouted(n)
        return chain === way.chain ? way : { ...way, chain }
      })
  const mixChain = silenced(session.mix.chain)
  return withoutLostLeads({
    ...session,
    tracks: kept(session.tracks),
    groups: kept(session.groups),
    mix: mixChain === session.mix.chain ? session.mix : { ...session.mix, chain: mixChain },
  })
}

function setNode(session: Session, { node, change }: EditOf<'set-node'>): Session {
  const given = defined(change)
  if (node === MIX) {
    const { trimDb = session.mix.trimDb, faderDb = session.mix.faderDb } = given
    return { ...session, mix: { ...session.mix, trimDb, faderDb } }
  }
  const { role, ...forGroup } = given
  const track = session.tracks.find((t) => t.id === node)
  const changed = {
    ...session,
    tracks: session.tracks.map((t) => (t.id === node ? { ...t, ...given } : t)),
    groups: session.groups.map((g) => (g.id === node ? { ...g, ...forGroup } : g)),
  }
  if (!track || !role || isVoice(track.role) === isVoice(role)) return changed
  if (!isVoice(role)) return { ...changed, leadIds: session.leadIds.filter((id) => id !== node) }
  return guessLead(given.name ?? track.name, role) ? withLead(changed, node) : changed
}

function setOutput(session: Session, { node, output }: EditOf<'set-output'>): Session {
  if (output !== MIX && !session.groups.some((g) => g.id === output)) return session
  const turned = <N extends { id: string; output: string }>(nodes: readonly N[]): N[] =>
    nodes.map((n) => (n.id === node ? { ...n, output } : n))
  return refuseCycle({
    ...session,
    tracks: turned(session.tracks),
    groups: turned(session.groups),
  })
}

function refuseCycle(session: Session): Session {
  const cycle = findCycle(session)
  if (cycle) throw new DocumentError(`Not possible: ${cycleSentence(cycle)}.`)
  return session
}

function orderTrack(session: Session, { track, to }: EditOf<'order-track'>): Session {
  const from = session.tracks.findIndex((t) => t.id === track)
  if (from < 0) return session
  const tracks = [...session.tracks]
  const [moved] = tracks.splice(from, 1)
  tracks.splice(Math.max(0, Math.min(tracks.length, to)), 0, moved)
  return { ...session, tracks }
}

function setLead(session: Session, { track, lead }: EditOf<'set-lead'>): Session {
  const others = session.leadIds.filter((id) => id !== track)
  if (!lead || !session.tracks.some((t) => t.id === track)) return { ...session, leadIds: others }
  if (others.length >= MOST.leads) {
    throw new DocumentError(`A session can have up to ${MOST.leads} leads.`)
  }
  return { ...session, leadIds: [...others, track] }
}

function addTreatment(
  session: Session,
  { node, treatment, before }: EditOf<'add-treatment'>,
): Session {
  const chain = chainOf(session, node)
  if (!chain) return session
  if (chain.treatments.length >= MOST.treatments) {
    throw new DocumentError(`A chain can hold up to ${MOST.treatments} treatments.`)
  }
  if (chain.treatments.some((t) => t.id === treatment.id)) {
    throw new DocumentError('The chain already has this treatment.')
  }
  const heard = treatment.key ? routedNode(session, treatment.key.node) : null
  const added = heard ? treatment : { ...treatment, key: null }
  return refuseCycle(mapTreatments(session, node, (list) => inserted(list, added, before)))
}

/** Puts a treatment before another one of its stage, or at its stage's end. */
function inserted(
  list: readonly Treatment[],
  treatment: Treatment,
  before: string | null,
): Treatment[] {
  const at = list.findIndex((t) => t.id === before && t.stage === treatment.stage)
  return list.toSpliced(at < 0 ? endOfStage(list, treatment.stage) : at, 0, treatment)
}

function setTreatment(
  session: Session,
  { node, treatment: id, change }: EditOf<'set-treatment'>,
): Session {
  const changed = mapTreatments(session, node, (list) =>
    list.map((t) => (t.id === id ? changedTreatment(session, t, change) : t)),
  )
  return change.key === undefined ? changed : refuseCycle(changed)
}

function changedTreatment(
  session: Session,
  treatment: Treatment,
  { params, key, ...rest }: EditOf<'set-treatment'>['change'],
): Treatment {
  const kind = kindOf(treatment.kind)
  const made = { ...treatment, ...defined(rest) }
  if (params !== undefined) {
    const parsed = kind.params.safeParse(params)
    if (!parsed.success) throw describeIssue(parsed.error as z.ZodError, 'change')
    Object.assign(made, { params: parsed.data })
  }
  if (key !== undefined) {
    const heard = key && kind.takesKey && routedNode(session, key.node)
    made.key = heard ? key : null
  }
  return made
}

function moveTreatment(
  session: Session,
  { node, treatment: id, stage, before }: EditOf<'move-treatment'>,
): Session {
  return mapTreatments(session, node, (list) => {
    const treatment = list.find((t) => t.id === id)
    if (!treatment || before === id) return list
    const others = list.filter((t) => t.id !== id)
    return inserted(others, { ...treatment, stage }, before)
  })
}

function addBand(session: Session, edit: EditOf<'add-band'>): Session {
  const { node, stage, treatment, newTreatment: fresh, chainBand } = edit
  const chain = chainOf(session, node)
  if (!chain) return session
  const equalisers = chain.treatments.filter((t) => t.kind === 'equaliser')
  const target =
    equalisers.find((t) => t.id === treatment) ?? equalisers.findLast((t) => t.stage === stage)
  if (!target) {
    const made = newTreatment('equaliser', fresh, stage, { phase: 'minimum', bands: [chainBand] })
    return addTreatment(session, { kind: 'add-treatment', node, treatment: made, before: null })
  }
  if (target.params.bands.length >= MOST_BANDS) {
    throw new DocumentError(`An equaliser can hold up to ${MOST_BANDS} bands.`)
  }
  if (target.params.bands.some((b) => b.id === chainBand.id)) {
    throw new DocumentError('The equaliser already has this band.')
  }
  // A band that is added is to be heard.
  const on = mapTreatments(session, node, (list) =>
    list.map((t) => (t.id === target.id && !t.on ? { ...t, on: true } : t)),
  )
  return mapBands(on, node, target.id, (bands) => [...bands, chainBand])
}

function setBand(session: Session, edit: EditOf<'set-band'>): Session {
  const { node, treatment, band: id, change } = edit
  const { band, ...rest } = defined(change)
  return mapBands(session, node, treatment, (bands) =>
    bands.map((chainBand) =>
      chainBand.id === id
        ? { ...chainBand, ...rest, band: { ...chainBand.band, ...defined(band ?? {}) } }
        : chainBand,
    ),
  )
}

type EqualiserBands = Extract<Treatment, { kind: 'equaliser' }>['params']['bands']

function mapBands(
  session: Session,
  node: string,
  treatment: string,
  change: (bands: EqualiserBands) => EqualiserBands,
): Session {
  return mapTreatments(session, node, (list) =>
    list.map((t) =>
      t.id === treatment && t.kind === 'equaliser'
        ? { ...t, params: { ...t.params, bands: change(t.params.bands) } }
        : t,
    ),
  )
}

function mapTreatments(
  session: Session,
  node: string,
  change: (list: Treatment[]) => Treatment[],
): Session {
  return mapChain(session, node, (chain) => ({ ...chain, treatments: change(chain.treatments) }))
}

/** The session with one chain changed. */
export function mapChain(session: Session, node: string, change: (chain: Chain) => Chain): Session {
  if (node === MIX) {
    return { ...session, mix: { ...session.mix, chain: change(session.mix.chain) } }
  }
  const within = <N extends { id: string; chain: Chain }>(nodes: N[]): N[] =>
    nodes.some((n) => n.id === node)
      ? nodes.map((n) => (n.id === node ? { ...n, chain: change(n.chain) } : n))
      : nodes
  return { ...session, tracks: within(session.tracks), groups: within(session.groups) }
}

/** Without values that are undefined: they would overwrite what is there. */
function defined<T extends object>(change: T): T {
  return Object.fromEntries(Object.entries(change).filter(([, v]) => v !== undefined)) as T
}

/** Within the range of a trim or an output. */
function heldGain(db: number): number {
  return Math.max(-48, Math.min(24, db))
}
