// What a visitor reads, in their language: English where theirs is none of these.

export type Texts = {
  search: string
  label: string
  suggestions: (count: number) => string
  found: (count: number, query: string) => string
  nothing: (query: string) => string
  begin: string
  meant: string
  showing: (taken: string) => string
  instead: (said: string) => string
  without: (words: string, count: number) => string
  unfiltered: (count: number) => string
  otherwise: string
  narrow: string
  narrowedTo: string
  takeAway: (value: string) => string
  more: (count: number) => string
  fewer: string
  sort: string
  relevance: string
  rising: (field: string) => string
  falling: (field: string) => string
  pages: string
  before: string
  next: string
  page: (number: number) => string
  others: (count: number) => string
  share: string
  copied: string
  helped: string
  thanks: string
  silent: string
  tooOften: (seconds: number) => string
  refused: string
  again: string
  partly: string
  openPage: (hits: number) => string
  closePage: string
  loadingPage: string
  quoted: (words: string[]) => string
}

const plural = (language: string, count: number, one: string, other: string) =>
  new Intl.PluralRules(language).select(count) === 'one' ? one : other

const number = (language: string, count: number) => new Intl.NumberFormat(language).format(count)

const counted = (language: string, count: number, one: string, other: string) =>
  `${number(language, count)} ${plural(language, count, one, other)}`

const listed = (language: string, words: string[]) =>
  new Intl.ListFormat(language, { type: 'conjunction' }).format(words)

const en: Texts = {
  search: 'Search',
  label: 'What are you looking for?',
  suggestions: (count) => counted('en', count, 'suggestion', 'suggestions'),
  found: (count, query) => `${counted('en', count, 'result', 'results')}${query && ` for “${query}”`}`,
  nothing: (query) => `Nothing found for “${query}”.`,
  begin: 'Type a word to begin.',
  meant: 'Did you mean',
  showing: (taken) => `Showing results for “${taken}”.`,
  instead: (said) => `Search for “${said}” instead`,
  without: (words, count) => `Without ${words}: ${counted('en', count, 'result', 'results')}`,
  unfiltered: (count) => `Without what you narrowed it to: ${counted('en', count, 'result', 'results')}`,
  otherwise: 'Try other words, fewer of them, or another spelling.',
  narrow: 'Narrow it down',
  narrowedTo: 'Narrowed to',
  takeAway: (value) => `Take “${value}” away`,
  more: (count) => `${number('en', count)} more`,
  fewer: 'Fewer',
  sort: 'Order',
  relevance: 'What fits best',
  rising: (field) => `${field}, lowest first`,
  falling: (field) => `${field}, highest first`,
  pages: 'Pages',
  before: 'Before',
  next: 'Next',
  page: (at) => `Page ${number('en', at)}`,
  others: (count) => `and ${counted('en', count, 'more like it', 'more like it')}`,
  share: 'Copy a link to this list',
  copied: 'Copied.',
  helped: 'This is what I was looking for',
  thanks: 'Thank you.',
  silent: 'The search does not answer. Are you online?',
  tooOften: (seconds) =>
    `So much was asked that it has to rest. It goes on in ${counted('en', seconds, 'second', 'seconds')}.`,
  refused: 'The search cannot be used here at the moment.',
  again: 'Try again',
  partly: 'Some of it is left out: there was not enough time.',
  openPage: (hits) => `Look at the page${hits > 0 ? ` (${counted('en', hits, 'match', 'matches')})` : ''}`,
  closePage: 'Close the page',
  loadingPage: 'Opening the page …',
  quoted: (words) =>
    listed(
      'en',
      words.map((word) => `“${word}”`),
    ),
}

const de: Texts = {
  search: 'Suchen',
  label: 'Wonach suchen Sie?',
  suggestions: (count) => counted('de', count, 'Vorschlag', 'Vorschläge'),
  found: (count, query) => `${counted('de', count, 'Treffer', 'Treffer')}${query && ` für „${query}“`}`,
  nothing: (query) => `Nichts gefunden für „${query}“.`,
  begin: 'Tippen Sie ein Wort, um zu beginnen.',
  meant: 'Meinten Sie',
  showing: (taken) => `Gezeigt werden Treffer für „${taken}“.`,
  instead: (said) => `Stattdessen nach „${said}“ suchen`,
  without: (words, count) => `Ohne ${words}: ${counted('de', count, 'Treffer', 'Treffer')}`,
  unfiltered: (count) => `Ohne Ihre Eingrenzung: ${counted('de', count, 'Treffer', 'Treffer')}`,
  otherwise: 'Versuchen Sie es mit anderen oder weniger Wörtern oder einer anderen Schreibweise.',
  narrow: 'Eingrenzen',
  narrowedTo: 'Eingegrenzt auf',
  takeAway: (value) => `„${value}“ aufheben`,
  more: (count) => `${number('de', count)} weitere`,
  fewer: 'Weniger',
  sort: 'Reihenfolge',
  relevance: 'Was am besten passt',
  rising: (field) => `${field}, aufsteigend`,
  falling: (field) => `${field}, absteigend`,
  pages: 'Seiten',
  before: 'Zurück',
  next: 'Weiter',
  page: (at) => `Seite ${number('de', at)}`,
  others: (count) => `und ${counted('de', count, 'ähnlicher', 'ähnliche')}`,
  share: 'Link zu dieser Liste kopieren',
  copied: 'Kopiert.',
  helped: 'Das habe ich gesucht',
  thanks: 'Vielen Dank.',
  silent: 'Die Suche antwortet nicht. Sind Sie online?',
  tooOften: (seconds) =>
    `Es wurde zu viel auf einmal gefragt. In ${counted('de', seconds, 'Sekunde', 'Sekunden')} geht es weiter.`,
  refused: 'Die Suche ist hier zurzeit nicht verfügbar.',
  again: 'Noch einmal versuchen',
  partly: 'Einiges fehlt: die Zeit hat nicht gereicht.',
  openPage: (hits) => `Seite ansehen${hits > 0 ? ` (${counted('de', hits, 'Fundstelle', 'Fundstellen')})` : ''}`,
  closePage: 'Seite schließen',
  loadingPage: 'Die Seite wird geöffnet …',
  quoted: (words) =>
    listed(
      'de',
      words.map((word) => `„${word}“`),
    ),
}

const fr: Texts = {
  search: 'Rechercher',
  label: 'Que cherchez-vous ?',
  suggestions: (count) => counted('fr', count, 'suggestion', 'suggestions'),
  found: (count, query) => `${counted('fr', count, 'résultat', 'résultats')}${query && ` pour « ${query} »`}`,
  nothing: (query) => `Aucun résultat pour « ${query} ».`,
  begin: 'Tapez un mot pour commencer.',
  meant: 'Vouliez-vous dire',
  showing: (taken) => `Résultats pour « ${taken} ».`,
  instead: (said) => `Rechercher plutôt « ${said} »`,
  without: (words, count) => `Sans ${words} : ${counted('fr', count, 'résultat', 'résultats')}`,
  unfiltered: (count) => `Sans vos filtres : ${counted('fr', count, 'résultat', 'résultats')}`,
  otherwise: 'Essayez d’autres mots, moins de mots ou une autre orthographe.',
  narrow: 'Affiner',
  narrowedTo: 'Limité à',
  takeAway: (value) => `Retirer « ${value} »`,
  more: (count) => `${number('fr', count)} de plus`,
  fewer: 'Moins',
  sort: 'Ordre',
  relevance: 'Ce qui convient le mieux',
  rising: (field) => `${field}, croissant`,
  falling: (field) => `${field}, décroissant`,
  pages: 'Pages',
  before: 'Précédente',
  next: 'Suivante',
  page: (at) => `Page ${number('fr', at)}`,
  others: (count) => `et ${counted('fr', count, 'autre semblable', 'autres semblables')}`,
  share: 'Copier un lien vers cette liste',
  copied: 'Copié.',
  helped: 'C’est ce que je cherchais',
  thanks: 'Merci.',
  silent: 'La recherche ne répond pas. Êtes-vous en ligne ?',
  tooOften: (seconds) =>
    `Trop de demandes à la fois. La recherche reprend dans ${counted('fr', seconds, 'seconde', 'secondes')}.`,
  refused: 'La recherche n’est pas disponible ici pour le moment.',
  again: 'Réessayer',
  partly: 'Il en manque une partie : le temps n’a pas suffi.',
  openPage: (hits) => `Voir la page${hits > 0 ? ` (${counted('fr', hits, 'occurrence', 'occurrences')})` : ''}`,
  closePage: 'Fermer la page',
  loadingPage: 'Ouverture de la page …',
  quoted: (words) =>
    listed(
      'fr',
      words.map((word) => `« ${word} »`),
    ),
}

const es: Texts = {
  search: 'Buscar',
  label: '¿Qué busca?',
  suggestions: (count) => counted('es', count, 'sugerencia', 'sugerencias'),
  found: (count, query) => `${counted('es', count, 'resultado', 'resultados')}${query && ` para «${query}»`}`,
  nothing: (query) => `No se ha encontrado nada para «${query}».`,
  begin: 'Escriba una palabra para empezar.',
  meant: 'Quizá quiso decir',
  showing: (taken) => `Se muestran resultados para «${taken}».`,
  instead: (said) => `Buscar «${said}»`,
  without: (words, count) => `Sin ${words}: ${counted('es', count, 'resultado', 'resultados')}`,
  unfiltered: (count) => `Sin sus filtros: ${counted('es', count, 'resultado', 'resultados')}`,
  otherwise: 'Pruebe con otras palabras, con menos palabras o con otra grafía.',
  narrow: 'Acotar',
  narrowedTo: 'Acotado a',
  takeAway: (value) => `Quitar «${value}»`,
  more: (count) => `${number('es', count)} más`,
  fewer: 'Menos',
  sort: 'Orden',
  relevance: 'Lo más adecuado',
  rising: (field) => `${field}, ascendente`,
  falling: (field) => `${field}, descendente`,
  pages: 'Páginas',
  before: 'Anterior',
  next: 'Siguiente',
  page: (at) => `Página ${number('es', at)}`,
  others: (count) => `y ${counted('es', count, 'más parecido', 'más parecidos')}`,
  share: 'Copiar un enlace a esta lista',
  copied: 'Copiado.',
  helped: 'Esto es lo que buscaba',
  thanks: 'Gracias.',
  silent: 'La búsqueda no responde. ¿Tiene conexión?',
  tooOften: (seconds) => `Demasiadas consultas a la vez. Continúa en ${counted('es', seconds, 'segundo', 'segundos')}.`,
  refused: 'La búsqueda no está disponible aquí en este momento.',
  again: 'Reintentar',
  partly: 'Falta una parte: no hubo tiempo suficiente.',
  openPage: (hits) => `Ver la página${hits > 0 ? ` (${counted('es', hits, 'coincidencia', 'coincidencias')})` : ''}`,
  closePage: 'Cerrar la página',
  loadingPage: 'Abriendo la página …',
  quoted: (words) =>
    listed(
      'es',
      words.map((word) => `«${word}»`),
    ),
}

const nb: Texts = {
  search: 'Søk',
  label: 'Hva leter du etter?',
  suggestions: (count) => counted('nb', count, 'forslag', 'forslag'),
  found: (count, query) => `${counted('nb', count, 'treff', 'treff')}${query && ` for «${query}»`}`,
  nothing: (query) => `Ingen treff for «${query}».`,
  begin: 'Skriv et ord for å begynne.',
  meant: 'Mente du',
  showing: (taken) => `Viser treff for «${taken}».`,
  instead: (said) => `Søk etter «${said}» i stedet`,
  without: (words, count) => `Uten ${words}: ${counted('nb', count, 'treff', 'treff')}`,
  unfiltered: (count) => `Uten avgrensning: ${counted('nb', count, 'treff', 'treff')}`,
  otherwise: 'Prøv andre ord, færre ord eller en annen skrivemåte.',
  narrow: 'Avgrens',
  narrowedTo: 'Avgrenset til',
  takeAway: (value) => `Fjern «${value}»`,
  more: (count) => `${number('nb', count)} til`,
  fewer: 'Færre',
  sort: 'Rekkefølge',
  relevance: 'Det som passer best',
  rising: (field) => `${field}, stigende`,
  falling: (field) => `${field}, synkende`,
  pages: 'Sider',
  before: 'Forrige',
  next: 'Neste',
  page: (at) => `Side ${number('nb', at)}`,
  others: (count) => `og ${counted('nb', count, 'lignende', 'lignende')}`,
  share: 'Kopier en lenke til denne listen',
  copied: 'Kopiert.',
  helped: 'Dette var det jeg lette etter',
  thanks: 'Takk.',
  silent: 'Søket svarer ikke. Er du på nett?',
  tooOften: (seconds) =>
    `Det ble spurt om for mye på en gang. Det fortsetter om ${counted('nb', seconds, 'sekund', 'sekunder')}.`,
  refused: 'Søket kan ikke brukes her akkurat nå.',
  again: 'Prøv igjen',
  partly: 'Noe mangler: tiden strakk ikke til.',
  openPage: (hits) => `Se på siden${hits > 0 ? ` (${counted('nb', hits, 'treff', 'treff')})` : ''}`,
  closePage: 'Lukk siden',
  loadingPage: 'Åpner siden …',
  quoted: (words) =>
    listed(
      'nb',
      words.map((word) => `«${word}»`),
    ),
}

// Each by its tag; written Norwegian of the other kind is read as well.
const ALL: Record<string, Texts> = { en, de, fr, es, nb, nn: nb, no: nb }

// The first language of a visitor's that there are texts in, as a tag (BCP 47), and its texts.
export function textsFor(languages: readonly string[]): { language: string; texts: Texts } {
  for (const tag of languages) {
    const language = tag.toLowerCase().split('-')[0] ?? ''
    const texts = ALL[language]
    if (texts) return { language: texts === nb ? 'nb' : language, texts }
  }
  return { language: 'en', texts: en }
}

export const LANGUAGES = Object.keys(ALL)
