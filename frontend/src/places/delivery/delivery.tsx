// Delivery: what the world sees. What is live, who may ask, what was asked, what clicks say.
import { useCallback, type ReactNode } from 'react'
import { useAddress } from '../../shell/address'
import { ViewTabs } from '../../shell/view-tabs'
import { DELIVERY_VIEWS } from '../../shell/views'
import { ClicksView } from './clicks-view'
import type { DeliveryProps } from './delivery-props'
import { KeysView } from './keys-view'
import { LiveView } from './live-view'
import { PageView } from './page-view'
import { PastView } from './past-view'

type View = (typeof DELIVERY_VIEWS)[number]['view']

const BODIES: Record<View, (props: DeliveryProps) => ReactNode> = {
  live: LiveView,
  keys: KeysView,
  past: PastView,
  clicks: ClicksView,
  page: PageView,
}

export function Delivery({ collection }: DeliveryProps) {
  const { params, change } = useAddress()
  const open = useCallback((view: string) => change({ view, new: null, key: null }, false), [change])
  const here = DELIVERY_VIEWS.find(({ view }) => view === params.get('view'))?.view ?? 'live'
  const Body = BODIES[here]
  return (
    <div className="flex h-full flex-col">
      <ViewTabs label="Views of the delivery" tabs={DELIVERY_VIEWS} here={here} onOpen={open} />
      <div className="min-h-0 flex-1 overflow-y-auto">
        <Body key={collection.name} collection={collection} />
      </div>
    </div>
  )
}
