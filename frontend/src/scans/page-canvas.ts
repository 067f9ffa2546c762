// The picture of a page by the image viewer, with boxes over it. Its script is fetched when there is a page to show.
import { useCallback, useEffect, useRef, useState } from 'react'
import type { Point, Viewer } from 'openseadragon'
import type { Rectangle } from '../thinking/page-places'

export type Drawn = Rectangle & { look: 'hit' | 'now' | 'chosen' }
type Size = { width: number; height: number }
type Spot = { x: number; y: number }
export type Canvas = {
  state: 'opening' | 'open' | 'failed'
  zoom: (by: number) => void
  turn: () => void
  whole: () => void
  show: (what: Rectangle) => void
}

const STYLE_OF_VIEWER = 'data-openseadragon-mobile-css'
const STILL = '(prefers-reduced-motion: reduce)'

// element: where it is drawn; address: of the picture, null where there is none; page: in whose units boxes and spots are told. onPoint: where somebody points, null for
// nowhere; onPick: where they click.
export function usePageCanvas(props: {
  element: HTMLElement | null
  address: string | null
  page: Size
  drawn: readonly Drawn[]
  onPoint: (at: Spot | null) => void
  onPick: (at: Spot) => void
}): Canvas {
  const { page, drawn } = props
  const { viewer, failed } = useOpened(props)
  useEffect(() => {
    if (!viewer) return
    viewer.clearOverlays()
    for (const one of drawn) {
      const element = document.createElement('div')
      element.className = `page-box ${one.look}`
      element.dataset.testid = `page-box-${one.look}`
      viewer.addOverlay({ element, location: boundsOf(viewer, page, one) })
    }
  }, [viewer, drawn, page])
  const show = useCallback(
    (what: Rectangle) => void viewer?.viewport.fitBoundsWithConstraints(boundsOf(viewer, page, what)),
    [viewer, page],
  )
  const view = viewer?.viewport
  return {
    state: failed || props.address === null ? 'failed' : viewer ? 'open' : 'opening',
    zoom: (by) => void view?.zoomBy(by).applyConstraints(),
    turn: () => void view?.setRotation((view.getRotation() + 90) % 360),
    whole: () => void view?.setRotation(0).goHome(),
    show,
  }
}

function useOpened(props: Parameters<typeof usePageCanvas>[0]) {
  const { element, address } = props
  const [viewer, setViewer] = useState<Viewer | null>(null)
  const [failed, setFailed] = useState(false)
  const heard = useRef(props)
  useEffect(() => {
    heard.current = props
  })
  useEffect(() => {
    if (!element || address === null) return
    let made: Viewer | null = null
    const stopping = new AbortController()
    const { signal } = stopping
    void import('openseadragon').then(({ default: open }) => {
      if (signal.aborted) return
      keepStylesOut()
      const own = (made = open({
        element,
        tileSources: { type: 'image', url: address },
        drawer: 'canvas',
        showNavigationControl: false,
        gestureSettingsMouse: { clickToZoom: false },
        maxZoomPixelRatio: 4,
        visibilityRatio: 0.5,
        animationTime: window.matchMedia(STILL).matches ? 0 : 0.4,
      }))
      own.canvas.setAttribute('role', 'group')
      own.canvas.setAttribute('aria-label', 'The picture of the page; arrows move it')
      own.addHandler('open', () => !signal.aborted && setViewer(own))
      own.addHandler('open-failed', () => !signal.aborted && setFailed(true))
      own.addHandler('canvas-click', (event) => {
        if (event.quick && own.isOpen()) heard.current.onPick(spotOf(own, heard.current.page, event.position))
      })
      // Its other keys would turn and flip what our own keys grade.
      own.addHandler('canvas-key', (event) => {
        if (!(event.originalEvent as KeyboardEvent).key.startsWith('Arrow')) event.preventDefaultAction = true
      })
      const point = (event: PointerEvent) => {
        if (!own.isOpen()) return
        const { left, top } = element.getBoundingClientRect()
        const at = new open.Point(event.clientX - left, event.clientY - top)
        heard.current.onPoint(spotOf(own, heard.current.page, at))
      }
      element.addEventListener('pointermove', point, { signal })
      element.addEventListener('pointerleave', () => heard.current.onPoint(null), { signal })
    })
    return () => {
      stopping.abort()
      setViewer(null)
      setFailed(false)
      made?.destroy()
    }
  }, [element, address])
  return { viewer, failed }
}

// The viewer puts a style into the page where there is none with this mark, which the page's policy refuses.
function keepStylesOut() {
  if (document.querySelector(`style[${STYLE_OF_VIEWER}]`)) return
  const style = document.createElement('style')
  style.setAttribute(STYLE_OF_VIEWER, '')
  style.nonce = document.querySelector<HTMLMetaElement>('meta[name=style-nonce]')?.nonce ?? ''
  document.head.append(style)
}

// A picture and what was read of it may be of different sizes.
function scales(viewer: Viewer, page: Size): [number, number] {
  const { x, y } = viewer.world.getItemAt(0).getContentSize()
  return [page.width > 0 ? x / page.width : 1, page.height > 0 ? y / page.height : 1]
}

function boundsOf(viewer: Viewer, page: Size, box: Rectangle) {
  const [across, down] = scales(viewer, page)
  return viewer.world
    .getItemAt(0)
    .imageToViewportRectangle(box.x * across, box.y * down, box.width * across, box.height * down)
}

function spotOf(viewer: Viewer, page: Size, position: Point): Spot {
  const [across, down] = scales(viewer, page)
  const { x, y } = viewer.world.getItemAt(0).viewportToImageCoordinates(viewer.viewport.pointFromPixel(position))
  return { x: x / across, y: y / down }
}
