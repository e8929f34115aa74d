import { spawn, spawnSync } from 'node:child_process'
import {
  closeSync,
  existsSync,
  lstatSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readdirSync,
  readFileSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, writeWav } from '@sober-prism/core/audio'
import { zipSync } from 'fflate'
import { beforeAll, describe, expect, it } from 'vitest'
import { whiteNoise } from '../../core/src/testing/signals'

const root = join(import.meta.dirname, '..', '..')
const cwd = mkdtempSync(join(tmpdir(), 'prism-wrong-'))
const put = (name: string, content: string | Uint8Array) => writeFileSync(join(cwd, name), content)
const tone = (rate: number, seconds: number) => makeClip(rate, [whiteNoise(rate * seconds, 1, 0.1)])

put('a.wav', writeWav(tone(48000, 1), 24))
put('low.wav', writeWav(tone(8000, 1), 24))
put('lowest.wav', writeWav(tone(2000, 1), 24))
put('eq.json', JSON.stringify({ version: 1, bands: [{ type: 'bell', hz: 300, db: 3, q: 1 }] }))
put('high.json', JSON.stringify({ version: 1, bands: [{ type: 'bell', hz: 12e3, db: 3, q: 1 }] }))
put('kind.json', JSON.stringify({ version: 1, bands: [{ type: 'bll', hz: 300, db: 3, q: 1 }] }))
put('tiny.csv', 'hz,db\n1e-300,0\n1000,-3\n')
put('high.csv', 'hz,db\n100,0\n90000,-3\n')
put('voice.wav', writeWav(tone(16000, 9), 16))
put('deep.json', '['.repeat(100_000) + ']'.repeat(100_000))
put('spoiled.json', '{"version":1,"bands":[{"type":"bell","hz":"high"}]}')
put('empty.wav', '')
mkdirSync(join(cwd, 'folder'))
symlinkSync(join(cwd, 'kept.wav'), join(cwd, 'link.wav'))
symlinkSync('round', join(cwd, 'round'))
put('kept.wav', 'old')
symlinkSync(join(cwd, 'nowhere'), join(cwd, 'dangling.wav'))

/** A zip whose directory promises more than is there. */
function lying(): Uint8Array {
  const zip = zipSync({ 'session.json': new TextEncoder().encode('{}'.repeat(100)) })
  const view = new DataView(zip.buffer, zip.byteOffset, zip.byteLength)
  for (let at = 0; at + 28 < zip.length; at++) {
    if (view.getUint32(at, true) === 0x02014b50) view.setUint32(at + 24, 0xf000_0000, true)
  }
  return zip
}
put('lying.prism', lying())
put('bomb.prism', zipSync({ 'session.json': new Uint8Array(100e6) }))
put('deep.prism', zipSync({ 'session.json': readFileSync(join(cwd, 'deep.json')) }))

const program = join(root, 'scripts', 'prism.mjs')
const env = { ...process.env, INIT_CWD: cwd }

function prism(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, [program, ...args], {
    cwd,
    env,
    encoding: 'utf8',
  })
  return { status, stdout, stderr }
}

// It is bundled at its first call.
beforeAll(() => void prism('inspect', 'a.wav'), 60_000)

describe('a wrong call of prism', () => {
  const long = `${'n'.repeat(250)}.wav`
  const tooLong = `${'n'.repeat(300)}.wav`
  it.each<[string[], number, RegExp]>([
    [[], 2, /^usage: prism/],
    [['constructor'], 2, /^usage: prism/],
    [['toString'], 2, /^usage: prism/],
    [['__proto__'], 2, /^usage: prism/],
    [['inspect'], 2, /0 files given/],
    [['inspect', 'none.wav'], 1, /none\.wav: no such file/],
    [['inspect', 'folder'], 1, /is a folder/],
    [['inspect', ''], 2, /a file name is empty/],
    [['inspect', 'a.wav/b'], 1, /: a part of its path is a file, not a folder\n$/],
    [['inspect', 'round'], 1, /: is a link that leads back to itself\n$/],
    [['inspect', 'a.wav', '--json=3'], 2, /--json takes no value/],
    [['split', 'a.wav', '--at'], 2, /--at needs a value/],
    [['split', 'a.wav', '--at', '1e-300', '--out', 'split'], 2, /frequencies of 10 Hz or more/],
    [['split', 'low.wav', '--at', '4000', '--out', 'split'], 2, /below half the sample rate/],
    [['response', '--eq', 'eq.json', '--at', '1e-300'], 2, /from 0\.1 to 24000 Hz/],
    [['response', '--eq', 'high.json', '--rate', '22050'], 1, /bands\[0\] lies at 12000 Hz/],
    [['apply', 'low.wav', 'b.wav', '--eq', 'high.json'], 1, /must stay below 4000 Hz/],
    [['curve', 'tiny.csv', '--taps', '512', '--out', 'b.wav'], 1, /line 2 .*0\.1 to 192000 Hz/],
    [['curve', 'high.csv', '--taps', '512', '--out', 'b.wav'], 1, /90000 Hz lies beyond half/],
    [['apply', 'a.wav', '', '--eq', 'eq.json'], 2, /a file name is empty/],
    [['apply', 'a.wav', '/proc/none/b.wav', '--eq', 'eq.json'], 1, /access is denied/],
    [['apply', 'a.wav', 'round', '--eq', 'eq.json'], 1, /leads back to itself/],
    [['apply', 'a.wav', 'b.wav', '--eq', 'kind.json'], 1, /type .*must be one of bell, low-shelf/],
    [
      ['match', 'voice.wav', 'voice.wav', '--bands', '2', '--out', 'b.wav', '--apply', 'b.wav'],
      1,
      /b\.wav: is written twice by this call/,
    ],
    [['inspect', 'empty.wav'], 1, /empty/],
    [['inspect', 'eq.json'], 1, /eq\.json: /],
    [['inspect', '--wrong', 'a.wav'], 2, /--wrong/],
    [['apply', 'a.wav', 'a.wav/x.wav', '--eq', 'eq.json'], 1, /is a file, not a folder/],
    [['apply', 'a.wav', tooLong, '--eq', 'eq.json'], 1, /name is too long/],
    [['apply', 'a.wav', 'folder', '--eq', 'eq.json', '--force'], 1, /not a plain file/],
    [['apply', 'a.wav', '/dev/null', '--eq', 'eq.json', '--force'], 1, /not a plain file/],
    [['apply', 'a.wav', 'dangling.wav', '--eq', 'eq.json', '--force'], 1, /leads nowhere/],
    [['apply', 'a.wav', 'b.wav', '--eq', 'deep.json'], 1, /deep\.json: /],
    [['apply', 'a.wav', 'b.wav', '--eq', 'spoiled.json'], 1, /bands\[0\]/],
    [['apply', 'a.wav', 'b.wav', '--eq', 'a.wav'], 1, /a\.wav: /],
    [['apply', 'a.wav', 'b.wav', '--chain', 'deep.json'], 1, /deep\.json: /],
    [['apply', 'a.wav', 'b.wav'], 2, /one of --eq and --chain/],
    [['apply', 'a.wav', 'b.wav', '--eq', 'eq.json', '--taps', 'many'], 2, /--taps/],
    [['apply', 'a.wav', 'b.wav', '--eq', 'eq.json', '--bits', '12'], 2, /--bits/],
    [['render', 'a.wav', 'b.wav'], 1, /a\.wav: /],
    [['render', 'lying.prism', 'b.wav'], 1, /too large|damaged/],
    [['render', 'bomb.prism', 'b.wav'], 1, /too large/],
    [['render', 'deep.prism', 'b.wav'], 1, /deep\.prism: /],
    [['findings', 'bomb.prism'], 1, /too large/],
  ])('%j is told in a sentence', (args, status, sentence) => {
    const result = prism(...args)
    expect([result.status, result.stdout]).toEqual([status, ''])
    expect(result.stderr).toMatch(sentence)
    expect(result.stderr).not.toMatch(/^\s+at |node:|\.mjs:\d/m)
    // Nothing is left behind, not even under a hidden name.
    expect(readdirSync(cwd).filter((name) => name.includes('.part'))).toEqual([])
    expect(existsSync(join(cwd, 'b.wav'))).toBe(false)
  })

  it.each(['low.wav', 'lowest.wav'])(
    '%s is treated in every phase mode, however low its rate',
    (file) => {
      for (const phase of ['minimum', 'mixed', 'linear']) {
        const out = `${phase}-${file}`
        const { status, stderr } = prism('apply', file, out, '--eq', 'eq.json', '--phase', phase)
        expect([status, stderr]).toEqual([0, ''])
      }
    },
  )

  it('leaves all files of a call as they were, or none: also where only the last of them is in the way', () => {
    mkdirSync(join(cwd, 'bands'))
    put('bands/band-2.wav', 'old')
    const args = ['split', 'a.wav', '--at', '1000', '--out', 'bands']
    const refused = prism(...args)
    expect([refused.status, refused.stdout]).toEqual([1, ''])
    expect(refused.stderr).toMatch(/band-2\.wav: exists already/)
    expect(readdirSync(join(cwd, 'bands'))).toEqual(['band-2.wav'])
    expect(prism(...args, '--force').status).toBe(0)
    expect(readdirSync(join(cwd, 'bands')).sort()).toEqual(['band-1.wav', 'band-2.wav'])
    expect(
      readFileSync(join(cwd, 'bands', 'band-2.wav'))
        .subarray(0, 4)
        .toString(),
    ).toBe('RIFF')
  })

  it('takes names as long as the system does', () => {
    expect(prism('apply', 'a.wav', long, '--eq', 'eq.json').status).toBe(0)
    expect(existsSync(join(cwd, long))).toBe(true)
  })

  it('replaces the file behind a link, not the link', () => {
    expect(prism('apply', 'a.wav', 'link.wav', '--eq', 'eq.json', '--force').status).toBe(0)
    expect(lstatSync(join(cwd, 'link.wav')).isSymbolicLink()).toBe(true)
    expect(readFileSync(join(cwd, 'kept.wav')).subarray(0, 4).toString()).toBe('RIFF')
  })

  it('ends quietly when nobody reads on, and tells a full disk', async () => {
    const run = spawn(process.execPath, [program, 'inspect', 'a.wav'], { cwd, env })
    run.stdout.destroy()
    let error = ''
    run.stderr.on('data', (text) => {
      error += text
    })
    await new Promise((resolve) => run.on('close', resolve))
    expect(error).toBe('')
    const full = openSync('/dev/full', 'w')
    const { status, stderr } = spawnSync(process.execPath, [program, 'inspect', 'a.wav'], {
      cwd,
      env,
      stdio: ['ignore', full, 'pipe'],
      encoding: 'utf8',
    })
    closeSync(full)
    expect(status).toBe(1)
    expect(stderr).toBe('prism: the output cannot be written: there is no space left on the disk\n')
  })

  it('stopped while it writes leaves nothing behind', async () => {
    put('long.wav', writeWav(makeClip(48000, [new Float32Array(48000 * 60)]), 24))
    const args = [program, 'apply', 'long.wav', 'stopped.wav', '--eq', 'eq.json']
    const run = spawn(process.execPath, args, { cwd, env })
    const isWriting = () => readdirSync(cwd).some((name) => name.endsWith('.part'))
    while (!isWriting() && run.exitCode === null) await new Promise((r) => setTimeout(r, 2))
    run.kill('SIGINT')
    const status = await new Promise((resolve) => run.on('close', resolve))
    expect(isWriting()).toBe(false)
    // It may have been done before the signal came: then all of it is there.
    const isThere = existsSync(join(cwd, 'stopped.wav'))
    if (status === 0) expect(isThere).toBe(true)
    if (isThere) expect(statSync(join(cwd, 'stopped.wav')).size).toBe(44 + 48000 * 60 * 3)
  })
})
