import { Foresight } from '@sober-prism/core/findings'
import { installKernels } from '@sober-prism/core/host'
import type { FromForesight, ToForesight } from './foresight-messages'
import { type LifeMessage, showLife } from './life'

let foresight: Foresight | null = null

self.onmessage = ({ data }: MessageEvent<ToForesight | LifeMessage>) => {
  if (data.kind === 'life') return void showLife(data)
  switch (data.kind) {
    case 'start':
      installKernels(data.pffft)
      return
    case 'survey': {
      const { tracks, settings } = data.surveyed
      foresight = new Foresight(tracks, settings)
      return
    }
    case 'change': {
      const shares = foresight?.change(data.changes) ?? new Map()
      self.postMessage({ turn: data.turn, shares } satisfies FromForesight)
      return
    }
    default:
      data satisfies never
  }
}
