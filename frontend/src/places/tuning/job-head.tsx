// The head of a view that is made by a job: what it tells of, how far it is, begun and ended.
import type { ReactNode } from 'react'
import { Changing } from '../../shell/changing'

export function JobHead(props: {
  says: ReactNode
  state: string | undefined
  // How far it is, in words, while it is being made.
  progress: string
  busy: boolean
  make: string
  onMake: () => void
  onCancel: () => void
  children?: ReactNode
}) {
  const isRunning = props.state === 'running' || props.state === 'waiting'
  return (
    <div className="line-b flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 py-3">
      <p>{props.says}</p>
      {isRunning ? (
        <Changing>
          <span role="status" className="quiet small">
            {props.progress}
          </span>
          <button type="button" className="btn btn-xs" disabled={props.busy} onClick={props.onCancel}>
            Cancel
          </button>
        </Changing>
      ) : (
        <Changing>
          <button
            type="button"
            className={`btn btn-xs ${props.state ? '' : 'btn-primary'}`}
            disabled={props.busy}
            onClick={props.onMake}
          >
            {props.state ? 'Make it anew' : props.make}
          </button>
        </Changing>
      )}
      {props.children}
    </div>
  )
}
