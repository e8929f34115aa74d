import type { FileStage } from '@sober-prism/engine'
import type { Incoming } from './import-jobs'

const STAGES: Readonly<Record<FileStage, { text: string; from: number; to: number }>> = {
  reading: { text: 'reading', from: 0, to: 0.2 },
  decoding: { text: 'decoding', from: 0.2, to: 0.4 },
  converting: { text: 'converting the rate', from: 0.4, to: 0.8 },
  storing: { text: 'storing', from: 0.8, to: 1 },
}

interface ImportListProps {
  readonly files: readonly Incoming[]
  readonly busy: boolean
  readonly onCancel: () => void
  readonly onClear: () => void
}

/** How each file fares, and a sentence for each that could not be read. */
export function ImportList({ files, busy, onCancel, onClear }: ImportListProps) {
  if (files.length === 0) return null
  const failed = files.filter((f) => f.state.kind === 'failed').length
  const done = files.filter((f) => f.state.kind === 'done').length
  return (
    <section className="incoming" aria-label="Files coming in">
      <header>
        <span role="status">
          {busy ? 'Bringing files in: ' : ''}
          {done} done{failed > 0 ? `, ${failed} could not be read` : ''}
          {busy ? `, ${files.length - done - failed} to go` : ''}
        </span>
        {busy ? (
          <button type="button" onClick={onCancel}>
            Cancel the rest
          </button>
        ) : (
          <button type="button" onClick={onClear}>
            Clear this list
          </button>
        )}
      </header>
      <ul>
        {files.map(({ key, name, state }) => (
          <li key={key} data-state={state.kind}>
            <span className="clip" title={name}>
              {name}
            </span>
            {state.kind === 'waiting' && <span className="hint">waiting</span>}
            {state.kind === 'cancelled' && <span className="hint">cancelled</span>}
            {state.kind === 'done' && <span className="hint">{state.text}</span>}
            {state.kind === 'failed' && <span className="problem">{state.sentence}</span>}
            {state.kind === 'busy' && (
              <>
                <span className="hint">{STAGES[state.stage].text}</span>
                <progress
                  aria-label={`${name}: ${STAGES[state.stage].text}`}
                  max={1}
                  value={
                    STAGES[state.stage].from +
                    state.share * (STAGES[state.stage].to - STAGES[state.stage].from)
                  }
                />
              </>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}
