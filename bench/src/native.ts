import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, seededRandom, writeWav } from '@sober-prism/core/audio'

const RATE = 48000
const SECONDS = 300
const RUNS = 5
const BELLS_HZ = [60, 150, 400, 900, 2000, 4500, 9000, 14000]

/**
 * Whole processes on 300 s of stereo, beside a general-purpose native program in turn: eight bells to 24 bit, and
 * loudness with true peak. Times are the least of five runs; memory is the largest resident size.
 */
export function measureNative(root: string): [string, string][] {
  if (spawnSync('ffmpeg', ['-version']).status !== 0) {
    return [['ffmpeg is not installed here', 'apt-get install ffmpeg']]
  }
  const folder = mkdtempSync(join(tmpdir(), 'sober-prism-native-'))
  try {
    const random = seededRandom(3)
    const noise = () => Float32Array.from({ length: SECONDS * RATE }, () => 0.4 * (random() - 0.5))
    const input = join(folder, 'in.wav')
    writeFileSync(input, writeWav(makeClip(RATE, [noise(), noise()]), 24))
    const bands = BELLS_HZ.map((hz, i) => ({ type: 'bell', hz, db: i % 2 ? 4 : -4, q: 1.4 }))
    const eq = join(folder, 'eq.json')
    writeFileSync(eq, JSON.stringify({ version: 1, bands }))
    const prism = [process.execPath, join(root, 'scripts', 'prism.mjs')]
    const out = join(folder, 'out.wav')
    const equalisers = BELLS_HZ.map(
      (hz, i) => `equalizer=f=${hz}:t=q:w=1.4:g=${i % 2 ? 4 : -4}`,
    ).join(',')
    const quiet = ['ffmpeg', '-hide_banner', '-nostats', '-y', '-i', input]
    return [
      beside('eight bells to 24 bit', folder, [
        [...prism, 'apply', input, out, '--eq', eq, '--bits', '24', '--force'],
        [...quiet, '-af', equalisers, '-c:a', 'pcm_s24le', join(folder, 'native.wav')],
      ]),
      beside('loudness and true peak', folder, [
        [...prism, 'inspect', input],
        [...quiet, '-af', 'ebur128=peak=true', '-f', 'null', '-'],
      ]),
    ].flat()
  } finally {
    rmSync(folder, { recursive: true })
  }
}

function beside(
  what: string,
  folder: string,
  commands: readonly (readonly string[])[],
): [string, string][] {
  const best = commands.map(() => ({ seconds: Number.POSITIVE_INFINITY, mb: 0 }))
  for (let run = 0; run < RUNS; run++) {
    commands.forEach((command, c) => {
      const { seconds, mb } = timed(command, folder)
      best[c].seconds = Math.min(best[c].seconds, seconds)
      best[c].mb = Math.max(best[c].mb, mb)
    })
  }
  const [ours, native] = best
  return [
    [
      `${what}, 300 s of stereo, whole process`,
      `${ours.seconds.toFixed(2)} s beside ${native.seconds.toFixed(2)} s: ${(ours.seconds / native.seconds).toFixed(2)}`,
    ],
    ['… memory', `${ours.mb.toFixed(0)} MB beside ${native.mb.toFixed(0)} MB`],
  ]
}

function timed(command: readonly string[], folder: string): { seconds: number; mb: number } {
  const report = join(folder, 'time.txt')
  const { status, stderr } = spawnSync('/usr/bin/time', ['-f', '%e %M', '-o', report, ...command])
  if (status !== 0) throw new Error(`${command.join(' ')}: ${stderr.toString().slice(-400)}`)
  const [seconds, kb] = readFileSync(report, 'utf8').trim().split(' ').map(Number)
  return { seconds, mb: kb / 1024 }
}
