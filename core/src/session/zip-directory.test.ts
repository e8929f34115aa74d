import { deflateRawSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import { unpackProblem, type ZipEntry } from './zip-directory'

const entry: ZipEntry = { name: 'a.wav', method: 8, bytes: 1000, packedBytes: 100, at: 0 }
const MOST = 1e6

describe('what is not unpacked', () => {
  it('is what promises more than deflate can make of it, before room is made', () => {
    expect(unpackProblem(entry, MOST)).toBeNull()
    expect(unpackProblem({ ...entry, bytes: 103_200 }, MOST)).toBeNull()
    expect(unpackProblem({ ...entry, bytes: 103_201 }, MOST)).not.toBeNull()
    // As much as there is: a run of one byte.
    const packed = deflateRawSync(new Uint8Array(1e6)).length
    expect(unpackProblem({ ...entry, bytes: 1e6, packedBytes: packed }, MOST)).toBeNull()
  })

  it('is what is too large, or packed in another way', () => {
    expect(unpackProblem({ ...entry, bytes: MOST + 1, packedBytes: MOST }, MOST)).toContain('a.wav')
    expect(unpackProblem({ ...entry, method: 0, packedBytes: MOST + 1 }, MOST)).toContain('large')
    expect(unpackProblem({ ...entry, method: 12 }, MOST)).toContain('not read here')
  })
})
