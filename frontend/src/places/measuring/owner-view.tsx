// The owner's page: better or not, by how much, what got worse, three examples, what was decided and why.
import { useQuery } from '@tanstack/react-query'
import { ownerPage, type OwnerPage } from '../../api/comparing'
import { writeDecision } from '../../api/judging'
import type { Collection } from '../../api/queries'
import { CopyButton } from '../../parts/copy-button'
import { Kept, Unanswered } from '../../parts/answered'
import { Empty, ProblemNote } from '../../parts/notes'
import { useHeld } from '../../parts/use-held'
import { useDoing } from '../../shell/use-doing'
import { PairBar } from './pair-bar'
import { usePair } from './use-pair'
import { Changing } from '../../shell/changing'

export function OwnerView({ collection, set }: { collection: Collection; set: string }) {
  const { there, chosen, pair, measure, ready, outside } = usePair(collection, set)
  const found = useQuery(ownerPage(collection.name, set, pair))
  if (!ready) return <Unanswered asked={[outside]} what="the rankers" />
  if (!chosen || !pair)
    return <Empty title="Only one ranker">There is nothing to report yet: keep another version in Ranking first.</Empty>
  return (
    <div className="flex h-full flex-col print:block">
      <PairBar there={there} chosen={chosen} measure={measure}>
        <CopyButton what="Copy the page as Markdown" text={() => found.data?.markdown ?? ''} />
        <button type="button" className="btn btn-sm" disabled={!found.data} onClick={() => window.print()}>
          Print
        </button>
      </PairBar>
      <div className="min-h-0 flex-1 overflow-y-auto print:overflow-visible">
        {found.data ? (
          <Kept asked={[found]} what="the page">
            <Page facts={found.data.facts} />
          </Kept>
        ) : (
          <Unanswered asked={[found]} what="the page" />
        )}
        {found.data && <Decide collection={collection} set={set} names={found.data.names} />}
      </div>
    </div>
  )
}

function Page({ facts }: { facts: OwnerPage['facts'] }) {
  return (
    <article
      className="mx-auto max-w-[76ch] px-4 py-6 text-[16px] print:max-w-none print:px-0 print:py-0 print:text-[12px] print:leading-tight"
      aria-label="The owner’s page"
    >
      <h2 className="text-[22px] font-semibold wrap-anywhere">{facts.title}</h2>
      <p className="pb-3 text-[18px] font-semibold print:pb-1">{facts.verdict}</p>
      {facts.sentences.map((one) => (
        <p key={one} className="pb-2 print:pb-1">
          {one}
        </p>
      ))}
      <Heading>What got worse</Heading>
      {facts.got_worse.length === 0 && facts.worse_kinds.length === 0 && !facts.more_worse && <p>No search.</p>}
      <ul className="list-disc pl-5">
        {facts.got_worse.map((one) => (
          <li key={one.query} className="wrap-anywhere">
            {one.query}: {one.before} to {one.after} points
          </li>
        ))}
        {facts.more_worse && <li>{facts.more_worse}</li>}
        {facts.worse_kinds.map((one) => (
          <li key={one}>searches of the kind {one}</li>
        ))}
      </ul>
      {facts.broken.length > 0 && (
        <>
          <Heading>Expectations that are broken</Heading>
          <ul className="list-disc pl-5">
            {facts.broken.map((one) => (
              <li key={one} className="wrap-anywhere">
                {one}
              </li>
            ))}
          </ul>
        </>
      )}
      {facts.examples.length > 0 && <Heading>Examples</Heading>}
      {facts.examples.map((one) => (
        <section key={one.query} className="break-inside-avoid pb-3 print:pb-1">
          <h3 className="font-semibold wrap-anywhere">
            “{one.query}” <span className={one.gained ? 'gain' : 'loss'}>{one.gained ? '▲ better' : '▼ worse'}</span>
          </h3>
          {one.need && <p className="quiet">Wanted: {one.need}</p>}
          <div className="grid grid-cols-2 gap-6">
            <Titles name="before" titles={one.before} />
            <Titles name="after" titles={one.after} />
          </div>
        </section>
      ))}
      <Heading>What was decided, and why</Heading>
      {facts.decisions.length === 0 && <p>Nothing yet.</p>}
      {facts.decisions.map((one) => (
        <p key={one.day + one.title} className="wrap-anywhere">
          {one.day}: <b className="font-semibold">{one.title}</b> {one.why}
        </p>
      ))}
      <section
        className="small quiet pt-4 print:pt-2 print:text-[10px] print:leading-tight"
        aria-label="For whoever works on it"
      >
        <h2 className="pb-1 font-semibold">For whoever works on it</h2>
        <ul className="list-disc pl-5">
          {[...facts.made_of, ...facts.changed].map((one) => (
            <li key={one} className="wrap-anywhere">
              {one}
            </li>
          ))}
        </ul>
      </section>
    </article>
  )
}

const Heading = ({ children }: { children: string }) => (
  <h2 className="pt-4 pb-1 text-[17px] font-semibold print:pt-2 print:text-[14px]">{children}</h2>
)

function Titles({ name, titles }: { name: string; titles: string[] }) {
  return (
    <div>
      <p className="quiet small">{name}</p>
      {titles.length === 0 ? (
        <p className="quiet">nothing found</p>
      ) : (
        <ol className="list-decimal pl-5">
          {titles.map((title, i) => (
            <li key={i} className="wrap-anywhere">
              {title}
            </li>
          ))}
        </ol>
      )}
    </div>
  )
}

function Decide({ collection, set, names }: { collection: Collection; set: string; names: string[] }) {
  const { busy, problem, act } = useDoing('measuring', collection.name)
  const held = `decision ${collection.name}/${set}/`
  const [title, setTitle] = useHeld(`${held}title`, '')
  const [why, setWhy] = useHeld(`${held}why`, '')
  return (
    <form
      className="mx-auto max-w-[76ch] px-4 pb-8 text-[16px] print:hidden"
      aria-label="Decide"
      onSubmit={async (event) => {
        event.preventDefault()
        await act(async () => {
          await writeDecision(collection.name, title, why, { rankers: names, set })
          setTitle('')
          setWhy('')
        })
      }}
    >
      <Changing>
        <h2 className="heading quiet pb-1">Write the decision into the diary</h2>
        <div className="flex gap-2">
          <input
            dir="auto"
            aria-label="Decision"
            required
            maxLength={300}
            placeholder="what was decided"
            className="input input-sm w-[40%] border-base-300 bg-transparent"
            value={title}
            onChange={(event) => setTitle(event.target.value)}
          />
          <input
            dir="auto"
            aria-label="Why"
            maxLength={10_000}
            placeholder="why"
            className="input input-sm min-w-0 flex-1 border-base-300 bg-transparent"
            value={why}
            onChange={(event) => setWhy(event.target.value)}
          />
          <button type="submit" className="btn btn-sm" disabled={busy}>
            Write it down
          </button>
        </div>
        {problem && <ProblemNote error={problem} />}
      </Changing>
    </form>
  )
}
