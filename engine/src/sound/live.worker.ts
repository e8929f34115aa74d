import { powerToDb } from '@sober-prism/core/audio'
import { installKernels } from '@sober-prism/core/host'
import { LoudnessMeter } from '@sober-prism/core/loudness'
import { makeBands, powerSpectrum, sumIntoBands } from '@sober-prism/core/spectrum'
import { type LifeMessage, showLife } from '../work/life'
import type { LiveReading, ToLive } from './live'
import { type ProbeSettings, ProbeSpectrum } from './probe-spectrum'
import { TAP_FRAMES, TapBuffers } from './tap-buffers'

const FFT_FRAMES = 4096
const INTERVAL_MS = 40

const bands = makeBands('sixth')
const scratch = new Float32Array(FFT_FRAMES)
let timer: ReturnType<typeof setInterval> | undefined
let probe: ProbeSettings | null = null
let rateHz = 48000
let showsSides = false
let probes: readonly [ProbeSpectrum, ProbeSpectrum] | null = null

self.onmessage = (event: MessageEvent<ToLive | LifeMessage>) => {
  const message = event.data
  if (message.kind === 'life') return void showLife(message)
  if (message.kind === 'start') {
    installKernels(message.pffft)
    return
  }
  if (message.kind === 'probe') {
    probe = message.settings
    startProbe()
    return
  }
  if (message.kind === 'sides') {
    showsSides = message.shown
    return
  }
  clearInterval(timer)
  rateHz = message.sampleRateHz
  startProbe()
  const measure = watch(new TapBuffers(message.taps), message.tracks, message.sampleRateHz)
  timer = setInterval(measure, INTERVAL_MS)
}

function startProbe(): void {
  probes = probe && [new ProbeSpectrum(rateHz, probe), new ProbeSpectrum(rateHz, probe)]
}

/** Reads the taps at each call; says nothing while nothing new was played. */
function watch(taps: TapBuffers, tracks: number, rateHz: number): () => void {
  const spectrum = powerSpectrum({ size: FFT_FRAMES, window: 'hann' })
  const meter = new LoudnessMeter(rateHz, 2)
  const sums = new Float64Array(bands.length)
  let seen = taps.written
  return () => {
    const end = taps.written
    const fresh = Math.min(end - seen, TAP_FRAMES / 2)
    if (fresh <= 0) return
    const left = new Float32Array(fresh)
    const right = new Float32Array(fresh)
    taps.read(0, end, left)
    taps.read(1, end, right)
    meter.add([left, right])
    seen = end
    const levels = new Float32Array((tracks + 1) * bands.length)
    const peaks = new Float32Array(tracks + 1)
    for (let t = 0; t < tracks; t++) {
      taps.read(t + 2, end, scratch)
      peaks[t] = peakOf(scratch, fresh)
      intoBands(levels, t, spectrum, sums, rateHz)
    }
    peaks[tracks] = Math.max(peakOf(left, fresh), peakOf(right, fresh))
    taps.read(0, end, scratch)
    intoBands(levels, tracks, spectrum, sums, rateHz)
    const [before, after] = (probes ?? []).map((spectrum, side) =>
      spectrum.next((out) => taps.read(taps.probeLine + side, end, out), fresh / rateHz),
    )
    const sidesOf = (line: number) => {
      const out = new Float32Array(bands.length)
      taps.read(line, end, scratch)
      intoBands(out, 0, spectrum, sums, rateHz)
      return out
    }
    const sides = showsSides
      ? ([sidesOf(taps.sidesLine), sidesOf(taps.sidesLine + 1)] as const)
      : null
    const reading: LiveReading = {
      levels,
      peaks,
      momentaryLufs: meter.momentaryLufs,
      shortTermLufs: meter.shortTermLufs,
      probe: before && after ? { before, after } : null,
      sides,
    }
    const transfer = [levels, peaks, before, after, ...(sides ?? [])].flatMap((a) =>
      a ? [a.buffer] : [],
    )
    self.postMessage(reading, { transfer })
  }
}

function intoBands(
  levels: Float32Array,
  line: number,
  spectrum: (signal: Float32Array) => Float64Array,
  sums: Float64Array,
  rateHz: number,
): void {
  sumIntoBands(spectrum(scratch), rateHz / FFT_FRAMES, bands, sums)
  for (let b = 0; b < bands.length; b++) levels[line * bands.length + b] = powerToDb(sums[b])
}

function peakOf(signal: Float32Array, fresh: number): number {
  let peak = 0
  for (let i = Math.max(0, signal.length - fresh); i < signal.length; i++) {
    peak = Math.max(peak, Math.abs(signal[i]))
  }
  return peak
}
