import { describe, expect, it } from 'vitest'
import { applyEdits } from '../session'
import { sessionOf } from '../testing/sessions'
import { deliverables } from './deliverables'

const session = {
  ...applyEdits(sessionOf(['a', 'b']), [
    { kind: 'add-group', id: 'g', name: 'Low / end', members: ['a'] },
    { kind: 'set-node', node: 'a', change: { name: 'Bass', letter: 'B' } },
    { kind: 'set-node', node: 'b', change: { name: 'bass', letter: 'B' } },
  ]),
  name: 'Quay',
}
const all = { mix: true, groups: true, tracks: true }

describe('what can be rendered', () => {
  it('is mix, groups and tracks in this order, each file by a name of its own', () => {
    const folder = deliverables(session, all, { ending: '.wav', apart: false })
    const letter = session.groups[0].letter
    expect(folder.map((d) => [d.what, d.file])).toEqual([
      ['mix', 'Quay.wav'],
      ['group', `${letter} Low _ end.wav`],
      ['track', 'B Bass.wav'],
      ['track', 'B bass 2.wav'],
    ])
    const apart = deliverables(session, { ...all, mix: false }, { ending: '.flac', apart: true })
    expect(apart.map((d) => d.file)).toEqual([
      `Quay ${letter} Low _ end.flac`,
      'Quay B Bass.flac',
      'Quay B bass 2.flac',
    ])
  })

  it('is a mix and groups in stereo, and tracks in the channels they came in', () => {
    const made = deliverables(session, all, { ending: '.wav', apart: false })
    expect(made.map((d) => d.sound.channels)).toEqual([2, 2, 1, 1])
  })
})
