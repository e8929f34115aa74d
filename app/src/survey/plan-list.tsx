import { planEdits } from '@sober-prism/core/findings'
import { errorSentence, isCancel } from '@sober-prism/engine'
import { useCallback, useState } from 'react'
import { capital, formatShare, signed } from '../format'
import { Plot, type Surface } from '../plot/plot'
import { FIGURE_FONT } from '../plot/sheet'
import { useAnalysis, useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, useSession } from '../store/selectors'
import { useEdit, useSend } from '../store/store'
import { editsOfPlan } from './move-edits'
import { moveWords } from './named-finding'

/** The shortest list of moves that wins most clarity, and where to stop. */
export function PlanList() {
  const session = useSession()
  const desk = useDesk()
  const send = useSend()
  const edit = useEdit()
  const { plan, fresh, work } = useAnalysis()
  const [chosen, setChosen] = useState<number | null>(null)
  const lead = session.leadIds[0] ?? null
  if (!plan) {
    return (
      <div className="plan-start">
        <p>
          The plan searches, with the model in the loop, for the fewest moves that bring most of the
          leads back: cuts on what covers them, none deeper than 9 dB, no track’s own loudness
          changed by more than 1.5 LU.
        </p>
        {session.leadIds.length === 0 && <p className="hint">Choose a lead first.</p>}
        <button
          type="button"
          className="primary"
          disabled={!fresh || work !== null || session.leadIds.length === 0}
          onClick={() =>
            desk.analyser.plan().catch((error) => {
              if (!isCancel(error)) {
                send(interfaceActions.noticeShown(errorSentence(error), 'warning'))
              }
            })
          }
        >
          Plan the moves
        </button>
      </div>
    )
  }
  if (plan.steps.length === 0) {
    return <p className="hint">No move would win the leads enough to be worth making.</p>
  }
  const count = Math.min(chosen ?? plan.steps.length, plan.steps.length)
  const share = (index: number) =>
    (index < 0 ? plan.heardBefore : plan.steps[index].heard).get(lead ?? '') ?? 0
  const shares = [-1, ...plan.steps.keys()].map(share)
  return (
    <div className="plan">
      <GainCurve shares={shares} count={count} name={nodeName(session, lead ?? '')} />
      <label className="plan-count">
        Moves to make
        <input
          type="range"
          min={1}
          max={plan.steps.length}
          value={count}
          aria-valuetext={`${count} moves, ${nodeName(session, lead ?? '')} heard ${formatShare(share(count - 1), 1)}`}
          onChange={(e) => setChosen(Number(e.target.value))}
        />
        <span className="figure">{count}</span>
      </label>
      <ol>
        {plan.steps.map((step, index) => (
          <li key={`${step.node} ${step.band.hz} ${step.band.q}`} data-out={index >= count}>
            <p>
              {capital(moveWords(session, planEdits(step)[0]))}
              {step.trimDb > 0 ? `, output +${step.trimDb.toFixed(1)} dB` : ''}.
            </p>
            <p className="where">
              {nodeName(session, lead ?? '')} heard{' '}
              <span className="figure">{formatShare(share(index), 1)}</span>; all tracks{' '}
              <span className="figure">
                {step.gainSone >= 0 ? '+' : ''}
                {signed(step.gainSone, 2)} sone
              </span>
              ; its own level {signed(step.levelLu, 1)} LU
            </p>
          </li>
        ))}
      </ol>
      <div className="actions">
        <button
          type="button"
          className="primary"
          onClick={() => {
            edit(editsOfPlan(plan, count, lead))
            send(interfaceActions.noticeShown(`${count} moves of the plan made.`, 'info', 'edit'))
          }}
        >
          Apply {count === 1 ? 'the first move' : `the first ${count}`}
        </button>
      </div>
    </div>
  )
}

/** Share of the lead that is heard against the number of moves. */
function GainCurve(props: { shares: readonly number[]; count: number; name: string }) {
  const { shares, count, name } = props
  const key = shares.join()
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for the shares.
  const draw = useCallback(
    ({ context, width, height, sheet }: Surface) => {
      const left = 44
      const bottom = height - 18
      const low = Math.floor(20 * Math.min(...shares)) / 20
      const high = Math.ceil(20 * Math.max(...shares)) / 20
      const x = (i: number) => left + (i / Math.max(1, shares.length - 1)) * (width - left - 12)
      const y = (v: number) => bottom - ((v - low) / Math.max(0.05, high - low)) * (bottom - 12)
      context.font = FIGURE_FONT
      context.fillStyle = sheet.inkSoft
      context.strokeStyle = sheet.line
      context.textAlign = 'right'
      context.textBaseline = 'middle'
      for (const v of [low, high]) {
        context.fillText(formatShare(v), left - 8, y(v))
        context.beginPath()
        context.moveTo(left, Math.round(y(v)) + 0.5)
        context.lineTo(width - 12, Math.round(y(v)) + 0.5)
        context.stroke()
      }
      context.textAlign = 'center'
      for (let i = 0; i < shares.length; i++) context.fillText(String(i), x(i), height - 7)
      context.strokeStyle = sheet.ink
      context.lineWidth = 1.5
      context.beginPath()
      shares.forEach((v, i) => {
        if (i === 0) context.moveTo(x(i), y(v))
        else context.lineTo(x(i), y(v))
      })
      context.stroke()
      shares.forEach((v, i) => {
        context.fillStyle = i <= count ? sheet.accent : sheet.paper
        context.strokeStyle = i <= count ? sheet.accent : sheet.ink
        context.beginPath()
        context.rect(x(i) - 3.5, y(v) - 3.5, 7, 7)
        context.fill()
        context.stroke()
      })
    },
    [key, count],
  )
  const label = `${name} heard by number of moves: ${shares.map((v) => formatShare(v)).join(', ')}`
  return <Plot className="gain-curve" draw={draw} label={label} />
}
