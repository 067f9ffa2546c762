// A word of a page as somebody reads it on the picture: its boxes stay, and the record has a revision more.
import { useState } from 'react'
import { correctWord, type RecordPage } from '../api/records'
import { Changing } from '../shell/changing'
import { useDoing } from '../shell/use-doing'
import type { Stretch } from '../thinking/marks'
import { ProblemNote } from '../parts/notes'

export function WordForm(props: {
  collection: string
  page: RecordPage
  stretch: Stretch
  word: string
  onDone: () => void
}) {
  const { collection, page, stretch, word } = props
  const [letters, setLetters] = useState(word)
  const { busy, problem, act } = useDoing('everything', collection)
  const same = letters.trim() === '' || letters.trim() === word
  const save = () =>
    act(() => correctWord(collection, page.key, page.revision, stretch, letters.trim()), { then: props.onDone })
  return (
    <form
      aria-label="Put the word right"
      className="line-t px-4 py-2"
      onSubmit={(event) => {
        event.preventDefault()
        if (!same) void save()
      }}
    >
      <Changing>
        <label className="flex items-center gap-2">
          <span className="small whitespace-nowrap">reads</span>
          <input
            dir="auto"
            className="input input-sm min-w-0 flex-1"
            value={letters}
            maxLength={500}
            onChange={(event) => setLetters(event.target.value)}
            onKeyDown={(event) => {
              if (event.key === 'Escape') {
                event.stopPropagation()
                props.onDone()
              }
            }}
          />
          <button type="submit" className="btn btn-primary btn-sm" disabled={busy || same}>
            Put right
          </button>
          <button type="button" className="btn btn-ghost btn-sm font-normal" onClick={props.onDone}>
            Leave
          </button>
        </label>
      </Changing>
      {problem && <ProblemNote error={problem} />}
    </form>
  )
}
