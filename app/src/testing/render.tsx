import { ThemeProvider } from '@mui/material/styles'
import type { Session } from '@sober-prism/core/session'
import { type Analysis, NOTHING_MEASURED, Signal } from '@sober-prism/engine'
import { cleanup, render } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import type { ReactNode } from 'react'
import { Provider } from 'react-redux'
import { MemoryRouter } from 'react-router'
import { afterEach, vi } from 'vitest'
import { DeliverJobs } from '../jobs/deliver-jobs'
import { ImportJobs } from '../jobs/import-jobs'
import { type OpenSession, OpenSessionContext } from '../shell/desk-context'
import { makeTheme } from '../shell/theme'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'

export { sessionOf } from './session'

afterEach(cleanup)

/** Of a session that is silent. */
const NO_FIGURES = {
  heard: new Map(),
  mix: { levels: new Float64Array(60), lufs: null, truePeakDbtp: null, rangeLu: null },
  latencySeconds: 0,
}

/** What stands around a component: a desk that measures and plays nothing by itself. */
export function fakeOpen(analysis: Partial<Analysis> = {}) {
  const state = new Signal<Analysis>({ ...NOTHING_MEASURED, ...analysis })
  const desk = {
    live: new Signal(null),
    heard: new Signal(null),
    levelledNow: new Signal(null),
    elsewhere: { state: new Signal(null), set: vi.fn() },
    phaseCosts: new Signal(new Map()),
    hear: vi.fn(async () => {}),
    stopHearing: vi.fn(),
    compare: vi.fn(),
    setBlind: vi.fn(),
    ask: {
      loudness: vi.fn(async (_: { track: string }): Promise<number | null> => null),
      levelled: vi.fn(async () => null),
      spectrogram: vi.fn(async (): Promise<Float32Array | null> => null),
      pair: vi.fn(async () => null),
      nullOf: vi.fn(async (_: unknown): Promise<unknown> => null),
      loudest: vi.fn(async (_: unknown): Promise<unknown> => null),
      chainFor: vi.fn(async (_: unknown): Promise<unknown> => null),
      shape: vi.fn(async (_: unknown): Promise<unknown> => null),
      range: vi.fn(async () => ({ rangeLu: 9.84, peakOverDb: 14.2 })),
      source: vi.fn(async (): Promise<unknown> => null),
    },
    analyser: {
      state,
      cancel: vi.fn(),
      restart: vi.fn(),
      plan: vi.fn(async () => {}),
      figuresOf: vi.fn(async (_: Session): Promise<unknown> => NO_FIGURES),
      predict: vi.fn(async () => null),
      heardThrough: vi.fn(async (): Promise<unknown> => null),
      foreseeHeard: vi.fn(async (): Promise<unknown> => null),
    },
    player: {
      playing: false,
      positionFrames: 0,
      sampleRateHz: 48000,
      playingSignal: new Signal(false),
      missed: new Signal(0),
      late: new Signal({ gaps: 0, seconds: 0, aheadSeconds: null }),
      play: vi.fn(async () => {}),
      pause: vi.fn(),
      seek: vi.fn(),
      probe: vi.fn(),
      compareSides: vi.fn(),
      showGains: vi.fn(),
      gainsNow: new Float32Array(),
    },
  }
  const keeper = { state: new Signal({ kind: 'kept' }), save: vi.fn(async () => true) }
  const open = { desk, keeper, imports: new ImportJobs(), deliver: new DeliverJobs() }
  return { desk, state, keeper, open: open as unknown as OpenSession }
}

/** Shows a component as it stands in an open session. */
export function show(
  children: ReactNode,
  session: Session,
  analysis: Partial<Analysis> = {},
  prepare: (desk: ReturnType<typeof fakeOpen>['desk']) => void = () => {},
) {
  store.dispatch(sessionActions.opened(session))
  store.dispatch(interfaceActions.nodeChosen(session.tracks[0]?.id ?? 'mix'))
  const fake = fakeOpen(analysis)
  prepare(fake.desk)
  const user = userEvent.setup()
  const shown = render(
    <Provider store={store}>
      <ThemeProvider theme={makeTheme('light')}>
        <MemoryRouter>
          <OpenSessionContext.Provider value={fake.open}>{children}</OpenSessionContext.Provider>
        </MemoryRouter>
      </ThemeProvider>
    </Provider>,
  )
  return { ...fake, ...shown, user, session: () => openSession(store.getState()) }
}
