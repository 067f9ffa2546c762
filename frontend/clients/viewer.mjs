// A viewer's own library (@iiif/helpers) reads a manifest, searches it by both versions and asks for words that begin so:
// what it made of the answers is printed as JSON. For tests: node clients/viewer.mjs MANIFEST QUERY BEGINNING
import {
  Vault,
  createSearch1Store,
  createSearch2AutocompleteStore,
  createSearch2Store,
  findSearch1Service,
  findSearch2Service,
} from '@iiif/helpers'

const [address, query, beginning] = process.argv.slice(2)
const vault = new Vault()
const manifest = await vault.loadManifest(address)
const canvases = vault.get(manifest.items)

async function searched(store) {
  await store.getState().search({ q: query })
  const { error, errorMessage, hits, resources } = store.getState()
  return { error, errorMessage, hits, resources }
}

const service = findSearch2Service(manifest)
const words = createSearch2AutocompleteStore(service)
await words.getState().search(beginning)
console.log(
  JSON.stringify({
    type: manifest.type,
    label: manifest.label,
    canvases: canvases.map(({ id, type, width, height, label }) => ({ id, type, width, height, label })),
    painted: canvases.map((canvas) =>
      vault
        .get(canvas.items)
        .flatMap((page) => vault.get(page.items))
        .flatMap(({ body }) => vault.get(body))
        .map(({ id, type }) => ({ id, type })),
    ),
    second: await searched(createSearch2Store(service)),
    first: await searched(createSearch1Store(findSearch1Service(manifest))),
    words: words.getState().results,
  }),
)
