// The log of another search, taken in from a file.
import { useState } from 'react'
import { loadLog } from '../../api/delivery'
import type { Collection } from '../../api/queries'
import { ProblemNote } from '../../parts/notes'
import { Changing } from '../../shell/changing'
import { useDoing } from '../../shell/use-doing'
import { countText } from '../../thinking/figures'

export function LogFile({ collection }: { collection: Collection }) {
  const { busy, problem, act } = useDoing('delivery', collection.name)
  const [said, setSaid] = useState('')
  const take = (file: File) =>
    act(async () => loadLog(collection.name, file.name, await file.text()), {
      then: (told) => setSaid(`${countText(told.queries)} queries, ${countText(told.added)} new.`),
    })
  return (
    <Changing>
      <label
        className="link small inline-flex min-h-[24px] cursor-pointer items-center"
        title="CSV or JSON Lines with query, at, session, found, clicked, succeeded"
      >
        Take in the log of another search
        <input
          type="file"
          className="sr-only"
          accept=".csv,.jsonl,.ndjson,.json,.txt"
          disabled={busy}
          onChange={(event) => {
            const file = event.target.files?.[0]
            event.target.value = ''
            if (file) void take(file)
          }}
        />
      </label>
      <span role="status" className="small">
        {busy ? 'Reading …' : said}
      </span>
      {problem && <ProblemNote error={problem} />}
    </Changing>
  )
}
