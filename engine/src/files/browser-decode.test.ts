import { describe, expect, it } from 'vitest'
import { sniffRateHz } from './browser-decode'

const bytes = (...parts: (number | string)[]) =>
  Uint8Array.from(
    parts.flatMap((p) => (typeof p === 'string' ? [...p].map((c) => c.charCodeAt(0)) : [p])),
  )

describe('the sample rate in a file’s header', () => {
  it('is read from FLAC’s stream information', () => {
    // 44100 = 0x0AC44 in 20 bits, then channels and bits.
    const head = bytes('fLaC', 0, 0, 0, 34, ...Array(10).fill(0), 0x0a, 0xc4, 0x42, 0xf0, 0)
    expect(sniffRateHz(head, 'flac')).toBe(44100)
  })

  it('is read from the Vorbis identification header', () => {
    const page = bytes(
      'OggS',
      ...Array(24).fill(0),
      1,
      'vorbis',
      0,
      0,
      0,
      0,
      2,
      0x80,
      0xbb,
      0,
      0,
      0,
    )
    expect(sniffRateHz(page, 'ogg')).toBe(48000)
  })

  it.each([
    [0xfb, 0x90, 44100],
    [0xfb, 0x94, 48000],
    [0xf3, 0x98, 16000],
    [0xe3, 0x90, 11025],
  ])('is read from an MPEG frame header %x %x, behind a tag', (second, third, rate) => {
    const tag = bytes('ID3', 4, 0, 0, 0, 0, 0, 6, 0, 0, 0, 0, 0, 0)
    expect(sniffRateHz(bytes(...tag, 0xff, second, third, 0, 0, 0), 'mp3')).toBe(rate)
  })

  it('is not guessed where nothing says it', () => {
    expect(sniffRateHz(bytes('fLaC'), 'flac')).toBeNull()
    expect(sniffRateHz(bytes(0xff, 0xfb, 0x9c, 0, 0), 'mp3')).toBeNull()
    expect(sniffRateHz(bytes('....ftyp'), 'mp4')).toBeNull()
  })
})
