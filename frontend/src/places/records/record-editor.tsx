// A record as JSON that can be changed: wrong JSON is told as it is typed, and nothing is lost by it.
import { useHeld } from '../../parts/use-held'
import { CodeBox } from '../../parts/code-box'
import { jsonProblem } from '../../thinking/json-text'

export function RecordEditor(props: {
  // What it is about, by which what is typed is held.
  of: string
  text: string
  saves: string
  busy: boolean
  onSave: (values: Record<string, unknown>) => void
  onCancel?: () => void
}) {
  const [text, setText] = useHeld(`record ${props.of}/text`, props.text)
  const problem = jsonProblem(text)
  return (
    <div className="px-4 py-3">
      <CodeBox
        language="json"
        label="The record as JSON"
        autoFocus
        invalid={problem !== null}
        className="boxed-code h-[360px] resize-y overflow-auto text-[13px] leading-[18px]"
        value={text}
        onChange={setText}
      />
      <p role={problem ? 'alert' : undefined} className="loss small min-h-[18px] py-1">
        {problem}
      </p>
      <button
        type="button"
        className="btn btn-primary btn-sm"
        disabled={problem !== null || props.busy}
        onClick={() => props.onSave(JSON.parse(text) as Record<string, unknown>)}
      >
        {props.saves}
      </button>
      {props.onCancel && (
        <button type="button" className="btn btn-ghost btn-sm ml-2 font-normal" onClick={props.onCancel}>
          Cancel
        </button>
      )}
    </div>
  )
}
