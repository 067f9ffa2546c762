// The visitor's page, and the two lines that put the same box into a site.
import { useState } from 'react'
import { here } from '../../api/base'
import { CopyButton } from '../../parts/copy-button'
import { protocolAddresses, snippet } from '../../thinking/delivery'
import { FIELD, Labelled } from '../coming-in/form'
import type { DeliveryProps } from './delivery-props'

export function PageView({ collection }: DeliveryProps) {
  const [key, setKey] = useState('')
  const address = `${window.location.origin}${here('')}`.replace(/\/$/, '')
  const page = `${address}/visit/${encodeURIComponent(collection.name)}?key=${encodeURIComponent(key)}`
  const lines = snippet(address, collection.name, key || 'KEY')
  return (
    <div className="max-w-[820px] px-4 py-4">
      <p className="quiet pb-3">
        A page as a visitor of the site would have it, served from here: it asks nothing but the search endpoint, with a
        visitor’s key. Keys are shown once, when they are made.
      </p>
      <Labelled label="A visitor’s key">
        <input
          dir="auto"
          className={FIELD}
          autoComplete="off"
          spellCheck={false}
          value={key}
          onChange={(event) => setKey(event.target.value.trim())}
        />
      </Labelled>
      <p className="pb-6">
        {key ? (
          <>
            <a className="link" href={page} target="_blank" rel="noreferrer">
              Open the visitor’s page
            </a>
            , or{' '}
            <a className="link" href={`${page}&engineer`} target="_blank" rel="noreferrer">
              with grades, scores and why
            </a>
          </>
        ) : (
          <span className="quiet">Put a key in to open the page.</span>
        )}
      </p>
      <h2 className="heading quiet flex items-baseline gap-2 pb-1">
        The same box in a page of the site
        <CopyButton what="Copy the lines" text={() => lines} />
      </h2>
      <pre className="boxed-code code text-[13px]">{lines}</pre>
      <p className="quiet small pt-2">
        Colours and sizes are the site’s, by CSS variables such as <code>--search-accent</code>; where a result leads
        to, by <code>href=&quot;https://www.example.org/objects/&#123;key&#125;&quot;</code>. See docs/visitors-page.md.
      </p>
      <Protocols address={address} collection={collection} visitorKey={key || 'KEY'} />
    </div>
  )
}

function Protocols(props: { address: string; collection: DeliveryProps['collection']; visitorKey: string }) {
  const { collection } = props
  const paged = collection.fields.some((one) => one.role === 'places')
  return (
    <section aria-label="Open protocols" className="pt-6">
      <h2 className="heading quiet pb-1">For viewers, catalogues and harvesters</h2>
      <dl>
        {protocolAddresses(props.address, collection.name, props.visitorKey, paged).map((one) => (
          <div key={one.name} className="pb-2">
            <dt className="small quiet flex items-baseline gap-2">
              {one.name}
              <CopyButton what={`Copy the address for ${one.name}`} text={() => one.address} />
            </dt>
            <dd className="code text-[13px] wrap-anywhere">{one.address}</dd>
          </div>
        ))}
      </dl>
      <p className="quiet small">
        They ask what the key may see, at the same rates, by what is live. Viewers in browsers need their site among the
        key’s origins. See docs/protocols.md.
      </p>
    </section>
  )
}
