// What stands around every place: the rail on the left, the strip across the top, the keys.
import { useCallback, useRef, useState, type ReactNode } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import type { Collection } from '../api/queries'
import { carried } from './address'
import { DraftBar } from './draft-bar'
import { useDraftKeeping } from './draft-keeping'
import { typing, useKeys } from './keys'
import { KeysSheet } from './keys-sheet'
import { Palette } from './palette'
import { PAGE_KEYS, placeAt, placeNamed } from './places'
import { Rail } from './rail'
import { Strip } from './strip'
import { turnTheme } from './theme'
import { useDraft } from './use-draft'

export function Shell(props: {
  collection: Collection
  all: Collection[]
  place: string
  isHeard: boolean
  children: ReactNode
}) {
  const { collection, all, place, children } = props
  const [showsKeys, setShowsKeys] = useState(false)
  const [finds, setFinds] = useState(false)
  const showKeys = useCallback(() => setShowsKeys(true), [])
  const navigate = useNavigate()
  const [params] = useSearchParams()
  const leading = useRef(false)
  const queryBox = useRef<HTMLInputElement>(null)
  const { draft } = useDraft(collection)
  useDraftKeeping(collection, draft)

  const handle = (event: KeyboardEvent) => {
    if (event.key.toLowerCase() === 'k' && (event.ctrlKey || event.metaKey) && !event.shiftKey && !event.altKey) {
      event.preventDefault()
      return setFinds((shown) => !shown)
    }
    if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return
    const afterG = leading.current
    leading.current = event.key === 'g' && !afterG
    const target = placeAt(event.key)?.place
    if (afterG && target) {
      event.preventDefault()
      navigate(`/${collection.name}/${target}${carried(params)}`)
    } else if (event.key === '/') {
      event.preventDefault()
      queryBox.current?.focus()
      queryBox.current?.select()
    } else if (event.key === '?') setShowsKeys((shown) => !shown)
    else if (event.key === 't') turnTheme()
  }
  useKeys(handle)

  return (
    <div className="shell grid h-full grid-cols-[76px_minmax(0,1fr)] grid-rows-[52px_minmax(0,1fr)]">
      <a className="skip" href="#place">
        To {placeNamed(place)?.name ?? place}
      </a>
      <Rail collection={collection.name} place={place} onKeys={showKeys} onFind={() => setFinds(true)} />
      <Strip collection={collection} all={all} place={place} queryBox={queryBox} />
      <main id="place" tabIndex={-1} className="flex min-h-0 min-w-0 flex-col outline-none">
        <h1 className="sr-only">
          {placeNamed(place)?.name ?? place} of {collection.name}
        </h1>
        {!props.isHeard && (
          <p role="status" className="line-b small loss px-4 py-1">
            The server cannot be heard: what stands here may have changed since. This page listens again by itself.
          </p>
        )}
        <DraftBar collection={collection} draft={draft} ownUndo={place === 'chains'} />
        <div className="min-h-0 flex-1">{children}</div>
      </main>
      {finds && <Palette collection={collection} all={all} onKeys={showKeys} onClose={() => setFinds(false)} />}
      {showsKeys && (
        <KeysSheet
          page={PAGE_KEYS}
          place={placeNamed(place)?.keys ?? []}
          name={place}
          onClose={() => setShowsKeys(false)}
        />
      )}
    </div>
  )
}
