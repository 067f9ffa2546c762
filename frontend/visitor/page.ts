// The visitor's page: the search box of a collection, with whatever its address says. `/visit/COLLECTION?key=…`
import { h } from './dom'
import { HarborSearch } from './element'
import './page.css'

const place = document.getElementById('visit')
const path = window.location.pathname
const at = path.lastIndexOf('/visit/')
const collection = decodeURIComponent(path.slice(at + '/visit/'.length))
const address = window.location.origin + path.slice(0, at)
const key = new URLSearchParams(window.location.search).get('key') ?? ''
// For whoever would see it in another language than their browser's.
const language = new URLSearchParams(window.location.search).get('lang')

if (language) document.documentElement.lang = language
document.title = collection

function problem(says: string): HTMLElement {
  return h('p', { class: 'problem', role: 'alert' }, says)
}

if (place && !key) {
  place.append(problem('This page needs a visitor’s key in its address: /visit/COLLECTION?key=… Make one in Delivery.'))
} else if (place) {
  const box = new HarborSearch()
  for (const [name, value] of Object.entries({ collection, key, endpoint: address, 'in-address': '' }))
    box.setAttribute(name, value)
  if (language) box.setAttribute('lang', language)
  // What a visitor need not know, whoever made the page does.
  box.addEventListener('harbor-refused', (event) => {
    const told = (event as CustomEvent<{ says: string }>).detail.says
    if (told && !place.querySelector('.problem')) place.append(problem(told))
  })
  place.append(h('h1', {}, collection), box)
  // Whoever may, looks behind the list, and says so in the address: a visitor asks the endpoint alone.
  if (new URLSearchParams(window.location.search).has('engineer'))
    void import('./engineer').then(async ({ engineersTools }) => {
      const tools = await engineersTools(address, collection, box)
      if (tools) place.append(tools)
    })
}
