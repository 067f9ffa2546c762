// What can be said of a record: a grade, a pass, a note; and the ways back and on.
import type { RefObject } from 'react'
import { GRADE_NAMES } from '../../thinking/judging'
import type { Desk } from './use-desk'

export function GradeBar({ desk, note }: { desk: Desk; note: RefObject<HTMLTextAreaElement | null> }) {
  return (
    <footer className="line-t sticky bottom-0 col-span-2 flex flex-wrap items-center gap-2 bg-base-100 px-6 py-3">
      {GRADE_NAMES.map((name, value) => (
        <button
          key={name}
          type="button"
          disabled={desk.work.closed}
          aria-pressed={desk.word?.grade === value}
          className={`btn btn-sm gap-2 font-normal ${desk.word?.grade === value ? 'btn-neutral' : ''}`}
          onClick={() => desk.grade(value)}
        >
          <kbd className="font-mono">{value}</kbd> {name}
        </button>
      ))}
      <button
        type="button"
        disabled={desk.work.closed}
        aria-pressed={desk.word !== null && desk.word.grade === null}
        className={`btn btn-sm gap-2 font-normal ${desk.word !== null && desk.word.grade === null ? 'btn-neutral' : ''}`}
        onClick={() => desk.grade(null)}
      >
        <kbd className="font-mono">x</kbd> pass
      </button>
      <button
        type="button"
        className="btn btn-ghost btn-sm font-normal"
        disabled={!desk.canUndo}
        title="Take the last one back (u)"
        onClick={desk.undo}
      >
        <kbd className="font-mono">u</kbd> undo
      </button>
      <button
        type="button"
        className="btn btn-ghost btn-sm font-normal"
        title="The record before (←)"
        onClick={() => desk.step(-1)}
      >
        ← before
      </button>
      <button
        type="button"
        className="btn btn-ghost btn-sm font-normal"
        title="The next record (→)"
        onClick={() => desk.step(1)}
      >
        next →
      </button>
      <textarea
        dir="auto"
        ref={note}
        aria-label="Note"
        rows={1}
        key={`${desk.query?.query_id}\n${desk.recordKey}\n${desk.word?.grade ?? ''}`}
        defaultValue={desk.word?.note ?? ''}
        placeholder="a note (n), after the grade"
        disabled={desk.word === null || desk.work.closed}
        maxLength={10_000}
        className="textarea textarea-sm min-h-[32px] min-w-[160px] flex-1 border-base-300 bg-transparent"
        onKeyDown={(event) => {
          if (event.key === 'Escape' || (event.key === 'Enter' && !event.shiftKey)) event.currentTarget.blur()
        }}
        onBlur={(event) => {
          const { word, place } = desk
          if (word && event.target.value !== word.note) desk.say(place, { ...word, note: event.target.value })
        }}
      />
    </footer>
  )
}
