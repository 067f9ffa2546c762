import { Dialog } from '../parts/dialog'
import type { Key } from './keys'

export function KeysSheet(props: { page: Key[]; place: Key[]; name: string; onClose: () => void }) {
  return (
    <Dialog label="Keys" className="w-[560px] p-6" onClose={props.onClose}>
      <div className="flex items-baseline justify-between pb-3">
        <h2 className="text-lg font-semibold">Keys</h2>
        <button type="button" className="btn btn-ghost btn-sm" onClick={props.onClose}>
          Close
        </button>
      </div>
      <div className="grid grid-cols-2 gap-8 max-sm:grid-cols-1">
        <KeyList title="Everywhere" keys={props.page} />
        <KeyList title={`In ${props.name[0]?.toUpperCase()}${props.name.slice(1)}`} keys={props.place} />
      </div>
    </Dialog>
  )
}

function KeyList({ title, keys }: { title: string; keys: Key[] }) {
  return (
    <section>
      <h3 className="heading quiet pb-2">{title}</h3>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-2">
        {keys.map((key) => (
          <div key={`${key.keys} ${key.does}`} className="contents">
            <dt className="font-mono text-[13px]">{key.keys}</dt>
            <dd>{key.does}</dd>
          </div>
        ))}
      </dl>
    </section>
  )
}
