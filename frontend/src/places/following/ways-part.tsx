// In which way it is followed: what each costs the database, what is seen late, and what would have to be done there.
import type { Looked, WayOffered } from '../../api/following'
import { CopyButton } from '../../parts/copy-button'
import { isChosen, type Said } from './saying'

type Props = {
  looked: Looked
  said: Said
  busy: boolean
  onSay: (change: Partial<Said>) => void
  onLook: () => void
}

export function WaysPart({ looked, said, busy, onSay, onLook }: Props) {
  return (
    <fieldset>
      <legend className="heading quiet pb-1">How it is followed</legend>
      {looked.ways.map((one) => {
        const chosen = isChosen(said, one)
        return (
          <div key={one.title} className="line-b py-2">
            <label className="flex items-baseline gap-2">
              <input
                type="radio"
                name="way"
                className="radio radio-xs translate-y-[2px]"
                checked={chosen}
                onChange={() => onSay({ way: one.way, by: one.by })}
              />
              <span>
                <b className="font-semibold">{one.title}</b>
                <span className={`small pl-2 ${one.is_ready ? 'gain' : 'quiet'}`}>
                  {one.is_ready ? 'can be begun' : 'not yet'}
                </span>
              </span>
            </label>
            <p className="quiet small max-w-[90ch] pl-6">
              {one.price} {one.unseen}
            </p>
            {chosen && <Chosen one={one} said={said} busy={busy} onSay={onSay} onLook={onLook} />}
          </div>
        )
      })}
    </fieldset>
  )
}

function Chosen({ one, said, busy, onSay, onLook }: Omit<Props, 'looked'> & { one: WayOffered }) {
  return (
    <div className="pt-1 pl-6">
      {one.lacking.map((lack) => (
        <p key={lack.what} className="max-w-[90ch] wrap-anywhere">
          <span className="loss">Not yet: {lack.what}.</span> <span className="wrap-anywhere">{lack.remedy}</span>
        </p>
      ))}
      {one.script && !one.is_ready && (
        <div className="pt-1">
          <div className="flex items-baseline gap-2">
            <span className="quiet small flex-1">Run once in that database by whoever owns the tables</span>
            <CopyButton what="Copy the script" text={() => one.script} />
          </div>
          <pre
            dir="ltr"
            tabIndex={0}
            aria-label="Script"
            className="boxed-code max-h-[260px] overflow-auto p-3 text-[12px]"
          >
            {one.script}
          </pre>
        </div>
      )}
      {!one.is_ready && (
        <button type="button" className="btn btn-sm mt-2" disabled={busy} onClick={onLook}>
          Look again
        </button>
      )}
      {one.way === 'asking' && one.is_ready && (
        <label className="flex items-center gap-2">
          <span>Asked every</span>
          <input
            dir="auto"
            type="number"
            min={0.2}
            max={86_400}
            step="any"
            className="input input-sm figure w-[90px] border-base-300 bg-transparent"
            value={said.everyS}
            onChange={(event) => onSay({ everyS: event.target.value })}
          />
          <span>seconds</span>
        </label>
      )}
    </div>
  )
}
