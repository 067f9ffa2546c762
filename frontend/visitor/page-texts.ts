// What a visitor reads around a page, in their language.

export type PageTexts = {
  loading: string
  hits: (now: number, count: number) => string
  noHits: string
  former: string
  next: string
  closer: string
  farther: string
  turn: string
  whole: string
  readAs: (word: string) => string
  point: string
  text: string
  pages: string
  page: (label: string, count: number) => string
  noPicture: string
  silent: string
  picture: string
}

const many = (language: string, count: number, one: string, other: string) =>
  new Intl.PluralRules(language).select(count) === 'one' ? one : other

const en: PageTexts = {
  loading: 'Opening the page …',
  hits: (now, count) => `match ${now} of ${count}`,
  noHits: 'no match marked on this page',
  former: 'Former match',
  next: 'Next match',
  closer: 'Closer',
  farther: 'Farther',
  turn: 'Turn',
  whole: 'Whole page',
  readAs: (word) => `read by machine as “${word}”`,
  point: 'Point at a word to see what the machine read there.',
  text: 'The text of the page',
  pages: 'Pages of the same thing',
  page: (label, count) => `page ${label}, ${count} ${many('en', count, 'match', 'matches')}`,
  noPicture: 'There is no picture of this page.',
  silent: 'The page does not come. Try again later.',
  picture: 'The picture of the page; arrows move it',
}

const de: PageTexts = {
  loading: 'Die Seite wird geöffnet …',
  hits: (now, count) => `Fundstelle ${now} von ${count}`,
  noHits: 'keine Fundstelle auf dieser Seite',
  former: 'Vorige Fundstelle',
  next: 'Nächste Fundstelle',
  closer: 'Näher',
  farther: 'Weiter weg',
  turn: 'Drehen',
  whole: 'Ganze Seite',
  readAs: (word) => `maschinell gelesen als „${word}“`,
  point: 'Zeigen Sie auf ein Wort, um zu sehen, was die Maschine dort gelesen hat.',
  text: 'Der Text der Seite',
  pages: 'Weitere Seiten',
  page: (label, count) => `Seite ${label}, ${count} ${many('de', count, 'Fundstelle', 'Fundstellen')}`,
  noPicture: 'Von dieser Seite gibt es kein Bild.',
  silent: 'Die Seite kommt nicht. Versuchen Sie es später noch einmal.',
  picture: 'Das Bild der Seite; Pfeiltasten bewegen es',
}

const fr: PageTexts = {
  loading: 'Ouverture de la page …',
  hits: (now, count) => `occurrence ${now} sur ${count}`,
  noHits: 'aucune occurrence sur cette page',
  former: 'Occurrence précédente',
  next: 'Occurrence suivante',
  closer: 'Rapprocher',
  farther: 'Éloigner',
  turn: 'Tourner',
  whole: 'Page entière',
  readAs: (word) => `lu par la machine : « ${word} »`,
  point: 'Pointez un mot pour voir ce que la machine y a lu.',
  text: 'Le texte de la page',
  pages: 'Autres pages',
  page: (label, count) => `page ${label}, ${count} ${many('fr', count, 'occurrence', 'occurrences')}`,
  noPicture: 'Il n’y a pas d’image de cette page.',
  silent: 'La page ne vient pas. Réessayez plus tard.',
  picture: 'L’image de la page ; les flèches la déplacent',
}

const es: PageTexts = {
  loading: 'Abriendo la página …',
  hits: (now, count) => `coincidencia ${now} de ${count}`,
  noHits: 'ninguna coincidencia en esta página',
  former: 'Coincidencia anterior',
  next: 'Coincidencia siguiente',
  closer: 'Acercar',
  farther: 'Alejar',
  turn: 'Girar',
  whole: 'Página entera',
  readAs: (word) => `leído por la máquina como «${word}»`,
  point: 'Señale una palabra para ver lo que la máquina leyó allí.',
  text: 'El texto de la página',
  pages: 'Otras páginas',
  page: (label, count) => `página ${label}, ${count} ${many('es', count, 'coincidencia', 'coincidencias')}`,
  noPicture: 'No hay imagen de esta página.',
  silent: 'La página no llega. Inténtelo más tarde.',
  picture: 'La imagen de la página; las flechas la mueven',
}

const nb: PageTexts = {
  loading: 'Åpner siden …',
  hits: (now, count) => `treff ${now} av ${count}`,
  noHits: 'ingen treff på denne siden',
  former: 'Forrige treff',
  next: 'Neste treff',
  closer: 'Nærmere',
  farther: 'Lenger unna',
  turn: 'Drei',
  whole: 'Hele siden',
  readAs: (word) => `lest av maskinen som «${word}»`,
  point: 'Pek på et ord for å se hva maskinen leste der.',
  text: 'Teksten på siden',
  pages: 'Andre sider',
  page: (label, count) => `side ${label}, ${count} ${many('nb', count, 'treff', 'treff')}`,
  noPicture: 'Det finnes ikke noe bilde av denne siden.',
  silent: 'Siden kommer ikke. Prøv igjen senere.',
  picture: 'Bildet av siden; piltastene flytter det',
}

const ALL: Record<string, PageTexts> = { en, de, fr, es, nb }

// language: as the search box has chosen it.
export const pageTextsFor = (language: string): PageTexts => ALL[language] ?? en
