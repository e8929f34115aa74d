// @vitest-environment happy-dom
import 'fake-indexeddb/auto'
import { makeClip, seededRandom } from '@sober-prism/core/audio'
import {
  matchWays,
  measureProfile,
  type Profile,
  responseWays,
  type SpectrumPair,
  type USUAL_CORRECTION,
} from '@sober-prism/core/match'
import { type Chain, writeProfile } from '@sober-prism/core/session'
import { newTreatment, type Treatment } from '@sober-prism/core/treatments'
import { EngineError, listProfiles } from '@sober-prism/engine'
import { act, screen, within } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { EqualiserSheet } from '../sheet/equaliser-sheet'
import { interfaceActions } from '../store/interface-slice'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { MatchPicture } from './match-picture'
import { ShapePane } from './shape-pane'
import { shapeActions } from './shape-slice'

const RATE = 8000
const random = seededRandom(2)
const noise = Float32Array.from({ length: 9 * RATE }, () => 0.4 * random() - 0.2)
let last = 0
/** The same, its highs taken off by one pole. */
const dull = noise.map((v) => {
  last += 0.4 * (v - last)
  return last
})
const profileOf = (signal: Float32Array, name: string) =>
  measureProfile(makeClip(RATE, [signal]), { name })
const [bright, dark] = [profileOf(noise, 'Voice'), profileOf(dull, 'Room')]

function shown(profiles: Readonly<Record<string, Profile>> = { t0: dark, t1: bright }) {
  const made = show(
    <>
      <ShapePane />
      <MatchPicture />
    </>,
    sessionOf(['Voice', 'Room']),
  )
  Object.assign(made.desk.ask, {
    profile: vi.fn(async ({ of }: { of: { node: string } }) => profiles[of.node] ?? null),
    match: vi.fn(async ({ from, to, settings }: Parameters<typeof desk>[0]) =>
      matchWays(from, to, { ...settings, mostBoostDb: 24 }),
    ),
    levelling: vi.fn(async () => ({
      thresholdDb: -27.5,
      reading: { deepestDb: -4, meanDb: -1.8, loudnessDb: -2.1 },
    })),
  })
  return made
}
const desk = (_: { from: Profile; to: Profile; settings: typeof USUAL_CORRECTION }) => {}
const treatmentsOf = (session: ReturnType<typeof sessionOf>, track = 0) =>
  session.tracks[track].chain.treatments
const pane = (name: string) => within(screen.getByRole('region', { name }))
/** Opens a section of the pane, whose line says something besides its name. */
const unfold = (user: ReturnType<typeof shown>['user'], name: string) =>
  user.click(pane(name).getByRole('button', { name: new RegExp(`^${name}.`), expanded: false }))

describe('matching', () => {
  it('compares with another track, and takes the fewest bands that come near, as loud as before', async () => {
    const { user, session } = shown()
    await user.click(screen.getByRole('button', { name: 'Compare Voice with Room' }))
    // The picture opens in the middle; what it came to is told where it was asked.
    await screen.findByRole('region', { name: 'Voice to Room' })
    const told = pane('Match')
    const options = within(told.getByLabelText('Number of bands')).getAllByRole('option')
    expect(options[0].textContent).toMatch(/^no band: \d\.\d dB RMS error$/)
    await user.click(told.getByRole('button', { name: /^Apply \d bands?$/ }))
    const [made] = treatmentsOf(session())
    expect(made).toMatchObject({ kind: 'equaliser', stage: 'shape' })
    expect(made.reason).toMatch(/^Match to Room; \d\.\d dB RMS error$/)
    // Highs were lifted: the output comes down by what that adds, in the same step.
    expect(session().tracks[0].chain.output.gainDb).toBeLessThan(-1)
    told.getByText(/The chain has changed\. Compare again/)
  })

  it('takes one long filter with both spectra in it', async () => {
    const { user, session } = shown()
    await user.click(screen.getByRole('button', { name: 'Compare Voice with Room' }))
    await user.click(await screen.findByRole('button', { name: 'Apply as one filter' }))
    const [made] = treatmentsOf(session())
    expect(made).toMatchObject({ kind: 'match', stage: 'shape', reason: 'Match to Room' })
    expect(made.kind === 'match' && made.params.target).toBe('Room')
    expect(made.kind === 'match' && Math.max(...made.params.weight)).toBe(1)
  })

  it('says what no equaliser can match, with its figures', async () => {
    const { user } = shown({
      t0: { ...dark, decaySeconds: 1.2 },
      t1: { ...bright, decaySeconds: 0.2 },
    })
    await user.click(screen.getByRole('button', { name: 'Compare Voice with Room' }))
    await screen.findByText('What EQ cannot match')
    pane('Match').getByText('Voice decay 1.20 s, Room decay 0.20 s')
    pane('Match').getByText('It will still sound roomier.')
  })

  it('matches the same two anew when the settings change', async () => {
    const { user, desk: made } = shown()
    await user.click(screen.getByRole('button', { name: 'Compare Voice with Room' }))
    await screen.findByRole('region', { name: 'Voice to Room' })
    await user.selectOptions(screen.getByLabelText('Smoothing'), '2 oct')
    const { match, profile } = made.ask as unknown as Record<string, ReturnType<typeof vi.fn>>
    await vi.waitFor(() => expect(match).toHaveBeenCalledTimes(2))
    expect(profile).toHaveBeenCalledTimes(2)
  })

  it('forgets a comparison when another session is opened', async () => {
    const { user } = shown()
    await user.click(screen.getByRole('button', { name: 'Compare Voice with Room' }))
    await screen.findByRole('region', { name: 'Voice to Room' })
    act(() => void store.dispatch(sessionActions.opened(sessionOf(['Voice']))))
    expect(screen.queryByRole('region', { name: 'Voice to Room' })).toBeNull()
  })

  it('tells why it cannot be done, and when it is stopped', async () => {
    const { user, desk: made } = shown()
    const refuse = new EngineError('A profile needs 8 s of sound at least; there are 4.0 s.')
    Object.assign(made.ask, { profile: vi.fn(async () => Promise.reject(refuse)) })
    await user.click(screen.getByRole('button', { name: 'Compare Voice with Room' }))
    await screen.findByText(refuse.message)
    Object.assign(made.ask, {
      profile: vi.fn(
        (_: unknown, { signal }: { signal: AbortSignal }) =>
          new Promise((_, reject) => signal.addEventListener('abort', () => reject(signal.reason))),
      ),
    })
    await user.click(screen.getByRole('button', { name: 'Compare Voice with Room' }))
    await user.click(await screen.findByRole('button', { name: /^Cancel/ }))
    await screen.findByText('Stopped.')
  })
})

describe('balance and levelling', () => {
  it('takes half of what stands out of a slope', async () => {
    const { user, session, desk } = shown({ mix: bright })
    desk.analyser.foreseeHeard.mockResolvedValue({ before: 0.6, after: 0.575 })
    const { state } = desk.analyser
    act(() => state.set({ ...state.value, fresh: true }))
    // A single source has a shape of its own.
    pane('Balance').getByText(/A slope suits only a mix or group/)
    act(() => void store.dispatch(interfaceActions.nodeChosen('mix')))
    act(
      () =>
        void store.dispatch(sessionActions.edited([{ kind: 'set-lead', track: 't0', lead: true }])),
    )
    await unfold(user, 'Balance')
    await user.click(screen.getByRole('button', { name: 'Analyse Mix' }))
    // Which way the lead's share goes is told before anything is made.
    await screen.findByText('Voice heard 60.0 % → 57.5 % (predicted).')
    expect(desk.analyser.foreseeHeard).toHaveBeenLastCalledWith('t0', [
      expect.objectContaining({ kind: 'add-treatment', node: 'mix' }),
    ])
    await user.click(await screen.findByRole('button', { name: 'Apply' }))
    const [made] = session().mix.chain.treatments
    expect(made).toMatchObject({
      kind: 'equaliser',
      reason: 'Half the deviation from the slope',
    })
  })

  it('says what each move changes, and whether it holds in another passage', async () => {
    const { user } = shown({ mix: bright })
    act(
      () =>
        void store.dispatch(
          sessionActions.edited([
            {
              kind: 'add-passage',
              passage: { id: 'p', name: 'Verse', fromFrame: 0, toFrame: 96_000 },
            },
          ]),
        ),
    )
    act(() => void store.dispatch(interfaceActions.nodeChosen('mix')))
    await unfold(user, 'Balance')
    await user.selectOptions(screen.getByLabelText('Compare another passage'), 'And Verse')
    await user.click(screen.getByRole('button', { name: 'Analyse Mix' }))
    await screen.findAllByText(/; in Verse −?\d+\.\d dB/)
    expect(screen.getAllByText(/% of what is heard changes/).length).toBeGreaterThan(0)
    // The same sound there: it holds.
    expect(screen.queryByText(/It does not hold/)).toBeNull()
  })

  it('levels by just so much at the loudest', async () => {
    const { user, session } = shown()
    // How uneven it is stands on its line before it is opened.
    await pane('Leveller').findByRole('button', { name: /Loudness range 9\.8 LU, peaks 14\.2 dB/ })
    await unfold(user, 'Leveller')
    await user.click(screen.getByRole('button', { name: 'Add leveller' }))
    await vi.waitFor(() => expect(treatmentsOf(session())).toHaveLength(1))
    expect(treatmentsOf(session())[0]).toMatchObject({
      kind: 'leveller',
      params: { thresholdDb: -27.5, atMostDb: 4 },
      reason: 'Max reduction 4 dB; average −1.8 dB',
    })
  })
})

describe('published responses', () => {
  it('bring a track from one microphone to another, invented ones or read from files', async () => {
    const { user, session, desk: made } = shown()
    type Input = { pair: SpectrumPair; settings: typeof USUAL_CORRECTION }
    const matchResponses = vi.fn(async ({ pair, settings }: Input) => responseWays(pair, settings))
    Object.assign(made.ask, { matchResponses })
    await unfold(user, 'Published responses')
    await user.selectOptions(screen.getByLabelText('Target response'), 'To Rope-locker microphone')
    await user.click(screen.getByRole('button', { name: 'Match Voice' }))
    await user.click(await screen.findByRole('button', { name: /^Apply \d+ bands?$/ }))
    expect(treatmentsOf(session())[0].reason).toMatch(
      /^Match to Rope-locker microphone, from Lamp microphone; /,
    )
    const csv = (text: string) => new File([text], 'hall.csv', { type: 'text/csv' })
    await user.upload(screen.getByLabelText('Response files'), csv('hz,db\n100,0\n50,0\n'))
    await screen.findByText(/hall\.csv: The curve at line 3 cannot be read/)
    await user.upload(screen.getByLabelText('Response files'), csv('hz,db\n50,0\n900,2\n9000,-3\n'))
    await user.selectOptions(screen.getByLabelText('Source response'), 'From hall')
  })
})

describe('a voice’s chain', () => {
  it('is made in one action, of the parts that are wanted', async () => {
    const levels = new Float64Array(60).fill(-60).map((v, i) => (i > 10 && i < 40 ? v + 20 : v))
    const bands = { frames: 0, mid: new Float32Array(), side: new Float32Array() }
    const reading = { levels, lowest: { hz: 110 }, bands }
    const made = show(<ShapePane />, sessionOf(['Voice']), {
      tracks: new Map([['t0', { levels, lufs: -20, reading }]]),
    } as never)
    Object.assign(made.desk.ask, {
      levelling: vi.fn(async () => ({
        thresholdDb: -30,
        reading: { deepestDb: -4, meanDb: -1.8, loudnessDb: -2.1 },
      })),
    })
    act(() => {
      const change = { role: 'voice' as const }
      store.dispatch(sessionActions.edited([{ kind: 'set-node', node: 't0', change }]))
    })
    const chain = pane('Voice chain')
    await unfold(made.user, 'Voice chain')
    // Heard before it is made, with nothing changed by that.
    await made.user.click(chain.getByRole('button', { name: 'Listen first' }))
    await vi.waitFor(() => expect(made.desk.hear).toHaveBeenCalled())
    expect(made.desk.hear).toHaveBeenLastCalledWith(
      expect.objectContaining({
        kind: 'chain',
        node: 't0',
        chain: expect.objectContaining({
          treatments: expect.arrayContaining([expect.objectContaining({ kind: 'leveller' })]),
        }),
      }),
    )
    expect(treatmentsOf(made.session())).toEqual([])
    await made.user.click(chain.getByRole('button', { name: 'Apply chain to Voice' }))
    await vi.waitFor(() => expect(treatmentsOf(made.session()).length).toBeGreaterThan(0))
    const treatments = treatmentsOf(made.session())
    expect(treatments.map((t) => t.stage)[0]).toBe('clean')
    expect(treatments.at(-1)).toMatchObject({
      kind: 'leveller',
      params: { thresholdDb: -30, atMostDb: 4, outputDb: 2.1 },
    })
    // What stands in the chain is not offered again.
    expect(chain.queryByLabelText(/^Leveller/)).toBeNull()
    expect(chain.queryByLabelText(/^Low cut/)).toBeNull()
    await made.user.click(chain.getByRole('button', { name: 'Apply chain to Voice' }))
    const levellers = treatmentsOf(made.session()).filter((t) => t.kind === 'leveller')
    expect(levellers).toHaveLength(1)
  })
})

describe('another chain', () => {
  it('is heard in place of the present one, measured beside it, and taken', async () => {
    const { user, session, desk } = shown()
    const profile = vi.fn(async ({ of }: { of: { chain?: Chain } }) => (of.chain ? dark : bright))
    Object.assign(desk.ask, { profile })
    const other = pane('Compare chains')
    await unfold(user, 'Compare chains')
    expect(other.getByRole('button', { name: 'Keep as a variation' })).toHaveProperty(
      'disabled',
      true,
    )
    const treatment = newTreatment('drive', 'd', 'shape')
    act(() => {
      const edits = [{ kind: 'add-treatment', node: 't0', treatment, before: null } as const]
      store.dispatch(sessionActions.edited(edits))
    })
    // Kept, and then changed: both stand beside each other.
    await user.click(other.getByRole('button', { name: 'Keep as a variation' }))
    const list = other.getByLabelText('Other chain')
    await within(list).findByRole('option', { name: '1 As it was' })
    expect(list).toHaveProperty('value', session().variations.list[0].id)
    act(() => {
      const edits = [{ kind: 'remove-treatment', node: 't0', treatment: 'd' } as const]
      store.dispatch(sessionActions.edited(edits))
    })
    await user.click(other.getByRole('button', { name: 'Listen to the other' }))
    expect(desk.hear).toHaveBeenLastCalledWith(
      expect.objectContaining({
        kind: 'chain',
        node: 't0',
        name: 'As it was',
        chain: expect.objectContaining({
          treatments: [expect.objectContaining({ kind: 'drive', params: treatment.params })],
        }),
      }),
    )
    expect(treatmentsOf(session())).toEqual([])

    await user.click(other.getByRole('button', { name: 'Measure both' }))
    const table = within(await other.findByRole('table', { name: 'Both chains measured' }))
    const row = (name: string) => within(table.getByRole('row', { name: new RegExp(name) }))
    const [mine, theirs] = row('^Loudness, LUFS').getAllByRole('cell')
    expect(mine.textContent).toBe(`−${(-bright.loudness.integratedLufs).toFixed(1)}`)
    expect(theirs.textContent).toBe(`−${(-dark.loudness.integratedLufs).toFixed(1)}`)
    // Shares of the ranges come to the whole, whatever the loudness.
    const shares = table
      .getAllByRole('row', { name: /dB of total/ })
      .map((r) => within(r).getAllByRole('cell')[1].textContent ?? '')
    const power = shares.map((s) => 10 ** (Number.parseFloat(s.replace('−', '-')) / 10))
    expect(power.reduce((sum, v) => sum + v, 0)).toBeCloseTo(1, 1)

    await user.click(other.getByRole('button', { name: 'Use the other' }))
    expect(treatmentsOf(session())).toMatchObject([{ kind: 'drive' }])
    other.getByText('Changed since this measurement.')
  })

  it('says why it cannot be measured', async () => {
    const { user, desk } = shown()
    const profile = vi.fn(async () => {
      throw new EngineError('Choose at least 8 s.')
    })
    Object.assign(desk.ask, { profile })
    act(() => {
      const treatment = newTreatment('drive', 'd', 'shape')
      const edits = [{ kind: 'add-treatment', node: 't0', treatment, before: null } as const]
      store.dispatch(sessionActions.edited(edits))
    })
    await unfold(user, 'Compare chains')
    await user.click(pane('Compare chains').getByRole('button', { name: 'Measure both' }))
    await pane('Compare chains').findByText('Choose at least 8 s.')
  })
})

describe('the passage', () => {
  it('is told what is wrong with it, in figures, and moves to where it stands for the whole', async () => {
    const { user, session, desk: made } = shown()
    const chosen = { fromSeconds: 1, toSeconds: 6, apartDb: 4.2, louderDb: -8 }
    const proposed = { fromSeconds: 0, toSeconds: 8, apartDb: 0.6, louderDb: 0.4 }
    const quiet = { fromSeconds: 0, toSeconds: 4, apartDb: 3, louderDb: -7 }
    const full = { fromSeconds: 4, toSeconds: 8, apartDb: 1, louderDb: 2 }
    const found = { chosen, proposed, extremes: { quiet, full } }
    Object.assign(made.ask, { passage: vi.fn(async () => found) })
    await unfold(user, 'Passage')
    await user.click(screen.getByRole('button', { name: 'Is it representative?' }))
    await pane('Passage').findByText(
      'Not representative: short, 5.0 s; quiet, −8.0 dB relative to the whole; unlike the rest, 4.2 dB from the whole spectrum.',
    )
    await user.click(screen.getByRole('button', { name: 'Use this passage' }))
    expect(session().passage?.fromFrame).toBe(0)
    expect(session().passage?.toFrame).toBeGreaterThan(0)

    // A quiet and a full one are kept together, named, taken and removed.
    await user.click(screen.getByRole('button', { name: 'Is it representative?' }))
    await screen.findByText(/A quiet and a full passage: .* at −7\.0 dB and .* at 2\.0 dB/)
    await user.click(screen.getByRole('button', { name: 'Save both by name' }))
    expect(session().passages.map((p) => p.name)).toEqual(['Quiet', 'Full'])
    const kept = within(screen.getByRole('list', { name: 'Saved passages' }))
    const name = kept.getByLabelText('Name of passage Full')
    await user.clear(name)
    await user.type(name, 'Refrain')
    await user.tab()
    await user.click(kept.getByRole('button', { name: 'Use passage Refrain' }))
    const [, refrain] = session().passages
    expect(session().passage).toEqual({ fromFrame: refrain.fromFrame, toFrame: refrain.toFrame })
    await user.click(kept.getByRole('button', { name: 'Remove passage Quiet' }))
    expect(session().passages.map((p) => p.name)).toEqual(['Refrain'])
  })
})

describe('the library of profiles', () => {
  it('keeps, renames, merges, reads and removes; what does not fit is told and changes nothing', async () => {
    const { user } = shown()
    act(() => void store.dispatch(shapeActions.closed()))
    const library = pane('Profiles')
    await unfold(user, 'Profiles')
    await user.click(library.getByRole('button', { name: 'Save profile of Voice' }))
    const name = await library.findByLabelText('Name of Room')
    await user.clear(name)
    await user.type(name, 'Hall')
    await user.tab()
    await library.findByLabelText('Name of Hall')
    // What it is of, and words on it.
    await user.click(library.getByRole('button', { name: 'About Hall' }))
    await user.selectOptions(library.getByLabelText('What Hall is of'), 'voice')
    await user.type(library.getByLabelText('Tags of Hall'), 'near, warm, near,')
    await user.tab()
    await user.type(await library.findByLabelText('Words on Hall'), 'For ballads')
    await user.tab()
    await vi.waitFor(async () => {
      const { profiles } = await listProfiles()
      const hall = profiles.find((p) => p.profile.name === 'Hall')?.profile
      expect(hall).toMatchObject({
        subject: 'voice',
        tags: ['near', 'warm'],
        words: 'For ballads',
      })
    })
    const file = (text: string) => new File([text], 'p.json', { type: 'application/json' })
    await user.upload(library.getByLabelText('Profile files'), file('{"version":1}'))
    await vi.waitFor(() =>
      expect(store.getState().interface.notice?.text).toMatch(
        /p\.json: The profile at .* cannot be read/,
      ),
    )
    await user.upload(library.getByLabelText('Profile files'), file(writeProfile(bright)))
    await user.click(await library.findByLabelText('Select Voice'))
    await user.click(library.getByLabelText('Select Hall'))
    await user.click(library.getByRole('button', { name: 'Merge 2 into one target' }))
    await library.findByLabelText(/^Name of (Voice and Hall|Hall and Voice)$/)
    // It can be matched to at once.
    within(screen.getByLabelText('Target')).getByText(/^profile (Voice and Hall|Hall and Voice)$/)
    await user.click(library.getByRole('button', { name: 'Remove Hall' }))
    await vi.waitFor(() => expect(library.queryByLabelText('Name of Hall')).toBeNull())
  })
})

describe('the editors of what shapes', () => {
  const sheet = (treatment: Treatment) => {
    const made = show(
      <EqualiserSheet />,
      sessionOf(['Voice'], { kind: 'add-treatment', node: 't0', treatment, before: null }),
    )
    act(() => void store.dispatch(interfaceActions.treatmentChosen({ treatmentId: treatment.id })))
    const type = async (label: string, text: string) => {
      const field = screen.getByRole('textbox', { name: label })
      await made.user.clear(field)
      await made.user.type(field, `${text}{Enter}`)
    }
    return { ...made, type, params: () => treatmentsOf(made.session())[0].params }
  }

  it('set broad strokes in their steps', async () => {
    const { user, type, params } = sheet(newTreatment('broad-strokes', 's', 'shape'))
    await type('Weight, dB', '3.4')
    await user.selectOptions(screen.getByLabelText('Frequency of weight'), '160 Hz')
    await user.selectOptions(screen.getByLabelText('Low cut'), '12 dB/oct')
    await type('Drive, dB', '6')
    await user.click(screen.getByLabelText('Polarity inverted'))
    expect(params()).toMatchObject({
      weight: { hz: 160, db: 3 },
      lowCut: { hz: 30, layers: 2 },
      driveDb: 6,
      polarity: -1,
    })
  })

  it('set every value of a leveller and of drive', async () => {
    const { user, type, params } = sheet(newTreatment('leveller', 's', 'shape'))
    await type('Max reduction, dB', '5')
    await type('Threshold, dB', '-31')
    await type('Ratio, : 1', '2.5')
    await user.selectOptions(screen.getByLabelText('Detector'), 'Fast only')
    await type('Release, ms', '90')
    expect(params()).toMatchObject({
      atMostDb: 5,
      thresholdDb: -31,
      ratio: 2.5,
      detector: 'fast',
      releaseMs: 90,
    })
  })

  it('set how much of a match is given', async () => {
    const usual = newTreatment('match', 's', 'shape')
    const weight = usual.params.weight.map(() => 1)
    const { user, type, params } = sheet({
      ...usual,
      params: { ...usual.params, weight, target: 'Room' },
    })
    screen.getByText('Match to Room')
    await type('Amount, %', '120')
    await user.selectOptions(screen.getByLabelText('Phase'), 'linear phase')
    await user.click(screen.getByLabelText('Keep loudness'))
    expect(params()).toMatchObject({ amount: 1.2, phase: 'linear', keepLoudness: false })
  })

  it('say that a match without a target needs one', () => {
    sheet(newTreatment('match', 's', 'shape'))
    expect(screen.getAllByText(/no target yet/i).length).toBeGreaterThan(0)
  })
})
