// A record that is a page: its picture with what a query matched drawn on it, word by word, and its text for whoever
// does not see it. A word that was read wrong is put right here.
import { useQuery, type UseQueryResult } from '@tanstack/react-query'
import { useEffect, useMemo, useState, type KeyboardEvent } from 'react'
import { here } from '../api/base'
import { judgePage, judgePicture } from '../api/judging'
import { recordPage, type RecordPage } from '../api/records'
import { Kept, Unanswered } from '../parts/answered'
import { MarkedText } from '../parts/marked-text'
import { usePageCanvas, type Canvas, type Drawn } from './page-canvas'
import { pieces, type Stretch } from '../thinking/marks'
import {
  around,
  beside,
  hitOf,
  lookedAt,
  placeAt,
  placesOf,
  wordBeside,
  wordOf,
  type Place,
} from '../thinking/page-places'
import { WordForm } from './word-form'

const CLOSER = 1.4
type Marks = Readonly<Record<string, readonly Stretch[]>>
const NO_MARKS: Marks = {}
// Whether marks are of the text that a field has now: a page that was put right comes before the list that found it.
type OfText = (field: string, text: string) => boolean
const anyText: OfText = () => true
const NONE: readonly Stretch[] = []

// A record of a collection as the page that it is; whoever may change the collection may put its words right.
export function PageViewer(props: {
  collection: string
  recordKey: string
  // By field, what is marked: what a query matched, or what `calls` says of it.
  marks?: Marks
  areOf?: OfText
  calls?: string
}) {
  const { collection, recordKey, marks = NO_MARKS, areOf = anyText, calls = 'match' } = props
  const page = useQuery(recordPage(collection, recordKey))
  const picture = `/api/collections/${encodeURIComponent(collection)}/pictures/`
  return (
    <Shown
      asked={page}
      marks={marks}
      areOf={areOf}
      calls={calls}
      collection={collection}
      picture={(named) => here(picture + encodeURIComponent(named))}
    />
  )
}

// A record that a judge is asked about: it is looked at, and not changed.
export function JudgedPage(props: { token: string; recordKey: string; marks: Marks; areOf: OfText }) {
  const { token, recordKey } = props
  const page = useQuery(judgePage(token, recordKey))
  return (
    <Shown
      asked={page}
      marks={props.marks}
      areOf={props.areOf}
      calls="match"
      collection={null}
      picture={() => judgePicture(token, recordKey, false)}
    />
  )
}

function Shown(props: {
  asked: UseQueryResult<RecordPage>
  marks: Marks
  areOf: OfText
  calls: string
  collection: string | null
  picture: (named: string) => string
}) {
  const { asked, marks } = props
  if (!asked.data) return <Unanswered asked={[asked]} what="the page" />
  const { key, field, text, picture, pictured } = asked.data
  return (
    <Kept asked={[asked]} what="the page" className="flex h-full min-h-[320px] flex-col">
      <Viewer
        key={key}
        collection={props.collection}
        page={asked.data}
        picture={pictured && picture !== null ? props.picture(picture) : null}
        marks={props.areOf(field, text) ? (marks[field] ?? NONE) : NONE}
        calls={props.calls}
      />
    </Kept>
  )
}

// What of a page is looked at: the matches of a query one after the other, or a word that somebody chose.
function useLookedAt(page: RecordPage, marks: readonly Stretch[]) {
  const points = useMemo(() => Array.from(page.text), [page.text])
  const places = useMemo(() => placesOf(page.places), [page.places])
  const hits = useMemo(() => marks.map((one) => hitOf(places, one)), [places, marks])
  const [now, setNow] = useState(0)
  const [chosen, choose] = useState<Stretch | null>(null)
  const at = Math.min(now, Math.max(0, hits.length - 1))
  const own = useMemo(() => (chosen ? hitOf(places, chosen) : null), [chosen, places])
  const drawn = useMemo<Drawn[]>(
    () => [
      ...hits.flatMap((hit, i) =>
        hit.boxes.map((box) => ({ ...box, look: i === at ? ('now' as const) : ('hit' as const) })),
      ),
      ...(own?.boxes ?? []).map((box) => ({ ...box, look: 'chosen' as const })),
    ],
    [hits, at, own],
  )
  const looked = own ?? hits[at] ?? null
  return {
    points,
    places,
    drawn,
    at,
    count: hits.length,
    chosen,
    choose,
    looked,
    step: (by: 1 | -1) => {
      choose(null)
      if (hits.length > 0) setNow((at + by + hits.length) % hits.length)
    },
    word: (by: 1 | -1) => choose(wordBeside(points, places, chosen, by)),
  }
}

type Looking = ReturnType<typeof useLookedAt>

// What a key does, while the page has the keyboard.
const actOf = (key: string, looking: Looking, canvas: Canvas): (() => void) | undefined =>
  ({
    '.': () => looking.step(1),
    ',': () => looking.step(-1),
    ']': () => looking.word(1),
    '[': () => looking.word(-1),
    '+': () => canvas.zoom(CLOSER),
    '-': () => canvas.zoom(1 / CLOSER),
    r: canvas.turn,
    w: canvas.whole,
  })[key]

// Arrows move the picture, and go to no other record meanwhile.
function keepArrows(event: KeyboardEvent) {
  if (event.key.startsWith('Arrow') && (event.target as Element).matches('.openseadragon-canvas'))
    event.stopPropagation()
}

function Viewer(props: {
  // Null where its words may not be put right.
  collection: string | null
  page: RecordPage
  picture: string | null
  marks: readonly Stretch[]
  calls: string
}) {
  const { collection, page, marks } = props
  const looking = useLookedAt(page, marks)
  const { points, places, chosen, looked } = looking
  const [pointed, setPointed] = useState<Place | null>(null)
  const [element, setElement] = useState<HTMLDivElement | null>(null)
  const canvas = usePageCanvas({
    element,
    address: props.picture,
    page,
    drawn: looking.drawn,
    onPoint: (point) => setPointed(point && placeAt(places, point.x, point.y)),
    onPick: (point) => {
      const place = placeAt(places, point.x, point.y)
      looking.choose(place && wordOf(points, place))
    },
  })
  const { state, show } = canvas
  useEffect(() => {
    const whole = around(looked?.boxes ?? [])
    if (state === 'open' && whole) show(lookedAt(whole, page))
  }, [state, show, looked, page])
  const press = (event: KeyboardEvent) => {
    const act = actOf(event.key, looking, canvas)
    if (!act || event.ctrlKey || event.metaKey || event.altKey || event.target instanceof HTMLInputElement) return
    event.preventDefault()
    event.stopPropagation()
    act()
  }
  return (
    <section
      aria-label="The page"
      className="flex min-h-0 flex-1 flex-col"
      onKeyDownCapture={press}
      onKeyDown={keepArrows}
    >
      <Bar canvas={canvas} looking={looking} page={page} calls={props.calls} />
      <div className="relative min-h-[45vh] flex-1 bg-base-200">
        <div ref={setElement} className="absolute inset-0" />
        {state !== 'open' && (
          <p className="quiet absolute inset-x-4 top-4">
            {state === 'opening' ? 'Opening the picture …' : missing(page)}
          </p>
        )}
      </div>
      <p className="line-t small min-h-[44px] px-4 py-1 wrap-anywhere" data-testid="page-words">
        <Words points={points} stretch={looked && [looked.start, looked.end]} pointed={pointed} />
      </p>
      {chosen && collection !== null && (
        <WordForm
          key={chosen.join()}
          collection={collection}
          page={page}
          stretch={chosen}
          word={points.slice(...chosen).join('')}
          onDone={() => looking.choose(null)}
        />
      )}
      <details className="line-t px-4 py-1">
        <summary className="small quiet cursor-pointer">The text of the page</summary>
        <p dir="auto" className="max-h-[180px] overflow-y-auto whitespace-pre-line wrap-anywhere">
          <MarkedText pieces={pieces(page.text, marks)} />
        </p>
      </details>
    </section>
  )
}

const missing = (page: RecordPage) =>
  page.picture === null
    ? 'This page came without a picture. Its text is below.'
    : `The picture “${page.picture}” is not here, or cannot be opened. Load the page again with it beside.`

function Bar(props: { canvas: Canvas; looking: Looking; page: RecordPage; calls: string }) {
  const { canvas, looking, page, calls } = props
  const { at, count, step, word } = looking
  const closed = canvas.state !== 'open'
  return (
    <div className="line-b flex flex-wrap items-center px-3 py-1">
      <span className="small flex-1 pl-1 whitespace-nowrap" role="status" data-testid="page-hits">
        {!page.fits
          ? 'no places of this text are here'
          : count === 0
            ? `no ${calls} on it`
            : `${calls} ${at + 1} of ${count}`}
      </span>
      <Tool name={`Former ${calls}`} keys="," face="‹" off={count === 0} act={() => step(-1)} />
      <Tool name={`Next ${calls}`} keys="." face="›" off={count === 0} act={() => step(1)} />
      <Tool name="Former word" keys="[" face="«" off={page.places.length === 0} act={() => word(-1)} />
      <Tool name="Next word" keys="]" face="»" off={page.places.length === 0} act={() => word(1)} />
      <Tool name="Closer" keys="+" face="+" off={closed} act={() => canvas.zoom(CLOSER)} />
      <Tool name="Farther" keys="-" face="−" off={closed} act={() => canvas.zoom(1 / CLOSER)} />
      <Tool name="Turn" keys="r" face="⟳" off={closed} act={canvas.turn} />
      <Tool name="Whole page" keys="w" face="▭" off={closed} act={canvas.whole} />
    </div>
  )
}

function Tool(props: { name: string; keys: string; face: string; off: boolean; act: () => void }) {
  return (
    <button
      type="button"
      className="btn btn-ghost btn-xs min-w-[26px] px-1 font-normal"
      aria-label={props.name}
      aria-keyshortcuts={props.keys}
      title={`${props.name} (${props.keys})`}
      disabled={props.off}
      onClick={props.act}
    >
      {props.face}
    </button>
  )
}

// What was read there: where somebody points, else the word or match that is looked at, among its neighbours.
function Words(props: { points: readonly string[]; stretch: Stretch | null; pointed: ReturnType<typeof placeAt> }) {
  const { points, pointed } = props
  if (pointed)
    return (
      <>
        read as <b dir="auto">{points.slice(...wordOf(points, pointed)).join('')}</b>
        {pointed.sure !== null && <span className="quiet">, {Math.round(pointed.sure * 100)} % sure</span>}
      </>
    )
  if (!props.stretch) return <span className="quiet">Point at a word to see what was read there.</span>
  const [before, after] = beside(points, props.stretch)
  return (
    <bdi>
      {before}
      <mark>{points.slice(...props.stretch).join('')}</mark>
      {after}
    </bdi>
  )
}
