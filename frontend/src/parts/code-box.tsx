// A box for something that is read by a machine: chain notation, a formula, JSON. Its editor comes with a script of its
// own, fetched when there is something to edit; until then the text stands there.
import { lazy, Suspense, type Ref } from 'react'
import type { Completion } from '../thinking/completion'
import type { Wrong } from '../thinking/place'

export type CodeHandle = { focus: () => void; select: (from: number, to: number) => void }

export type CodeProps = {
  label: string
  value: string
  language: 'notation' | 'formula' | 'json'
  onChange: (text: string) => void
  onBlur?: () => void
  // Before it is left by Escape.
  onEscape?: () => void
  // What may be typed next at a place, null where nothing is known.
  offer?: ((source: string, caret: number) => Completion | null) | undefined
  // What keys do, by their names (`Alt-Enter`); what they leave undone is the editor's.
  keys?: Record<string, () => boolean>
  wrong?: Wrong | null
  invalid?: boolean
  placeholder?: string | undefined
  autoFocus?: boolean
  most?: number
  className?: string
  handle?: Ref<CodeHandle> | undefined
}

const Editor = lazy(() => import('./code-editor'))

export function CodeBox(props: CodeProps) {
  return (
    <Suspense
      fallback={
        <div aria-hidden className={`code ${props.className ?? ''}`}>
          {props.value || <span className="quiet">{props.placeholder}</span>}
        </div>
      }
    >
      <Editor {...props} />
    </Suspense>
  )
}
