// The views of the places by name, in the order of their tabs.
export type ViewName = { view: string; name: string; hint?: string }

export const RECORDS_VIEWS = [
  { view: 'fields', name: 'Fields' },
  { view: 'browse', name: 'Browse' },
  { view: 'display', name: 'In result lists' },
  { view: 'import', name: 'Import and export' },
  { view: 'following', name: 'In step', hint: 'A live database that the records follow' },
  { view: 'rejected', name: 'Rejected rows' },
  { view: 'deleted', name: 'Deleted' },
  { view: 'collections', name: 'Collections' },
  { view: 'reading', name: 'Reading', hint: 'How well pages were read by machine, the worst first' },
] as const satisfies readonly ViewName[]

export const JUDGING_VIEWS = [
  { view: 'queries', name: 'Queries' },
  { view: 'tasks', name: 'Tasks' },
  { view: 'agreement', name: 'Agreement' },
  { view: 'expectations', name: 'Expectations' },
  { view: 'set', name: 'Rules and files' },
] as const satisfies readonly ViewName[]

export const MEASURES_VIEWS = [
  { view: 'sheet', name: 'This draft' },
  { view: 'missed', name: 'Missed' },
  { view: 'rankers', name: 'Rankers' },
  { view: 'head', name: 'Head to head' },
  { view: 'owner', name: 'For the owner' },
  { view: 'diary', name: 'Diary' },
  { view: 'time', name: 'Over time', hint: 'Every kept version by the judgments of today, and the checks' },
  { view: 'letters', name: 'Letters', hint: 'After how many letters a relevant record is found' },
] as const satisfies readonly ViewName[]

export const TUNING_VIEWS = [
  { view: 'search', name: 'Search' },
  { view: 'ledger', name: 'Ledger', hint: 'What each part of the ranker earns, and what it costs' },
  { view: 'growth', name: 'Growth', hint: 'What the collection would be at 10, 100 and 1,000 times its records' },
  { view: 'remedies', name: 'Remedies', hint: 'What would help the queries that come out worst' },
] as const satisfies readonly ViewName[]

export const DELIVERY_VIEWS = [
  { view: 'live', name: 'Live', hint: 'Which version answers at the search endpoint' },
  { view: 'keys', name: 'Keys', hint: 'Who may ask' },
  { view: 'past', name: 'Past queries', hint: 'What visitors asked' },
  { view: 'clicks', name: 'Clicks', hint: 'What clicks say of records' },
  { view: 'page', name: 'Visitor’s page' },
] as const satisfies readonly ViewName[]

export const PEOPLE_VIEWS = [
  { view: 'members', name: 'Members' },
  { view: 'changes', name: 'Changes', hint: 'Who changed what in this collection' },
  { view: 'installation', name: 'Installation', hint: 'Everybody who may come in' },
  { view: 'you', name: 'You' },
] as const satisfies readonly ViewName[]

// What stands beside a list, by `tab`; the first where the address says nothing.
export const RANKING_TABS = [
  { view: 'why', name: 'Why' },
  { view: 'page', name: 'Page', hint: 'The picture of the page, with the query’s words on it' },
  { view: 'not', name: 'Why not' },
  { view: 'missed', name: 'Missed' },
  { view: 'sides', name: 'Sides', hint: 'Which is right more often: the words or the meaning' },
  { view: 'versions', name: 'Versions' },
] as const satisfies readonly ViewName[]

// What stands beside the chains, by `aside`.
export const CHAINS_TABS = [
  { view: 'consequences', name: 'Consequences' },
  { view: 'stages', name: 'Stages' },
  { view: 'lists', name: 'Word lists' },
] as const satisfies readonly ViewName[]
