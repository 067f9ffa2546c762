import type { Change } from '../api/subjects'

// What has to be asked for anew once the server has told of something.
export type Told =
  | { subject: 'jobs'; kind: JobKind; id: number; state: string }
  | { subject: 'records' | 'judging'; id: number; revision: number }
  | { subject: 'said'; id: number }
  | { subject: 'drafts'; id: number }
  | { subject: 'following'; id: number }
  | { subject: 'again' }

// A change, or the one answer that is concerned.
export type Followed = Change | readonly (string | number)[]

type JobKind =
  'import' | 'filling' | 'asking' | 'reading' | 'joining' | 'tuning' | 'ledger' | 'growing' | 'remedies' | 'simulating'

// What shows each kind; nothing shows how slabs are joined.
const OF_JOBS: Record<Exclude<JobKind, 'joining'>, readonly string[]> = {
  import: ['imports', 'import'],
  filling: ['spaces', 'spaces'],
  asking: ['measuring', 'outside'],
  reading: ['chains', 'reckoning'],
  tuning: ['tuning'],
  ledger: ['tuning', 'ledgers'],
  growing: ['tuning', 'growth'],
  remedies: ['tuning', 'remedies'],
  simulating: ['tuning', 'first tunings'],
}

// How far judges are; grades that count are told of by the revision that they make.
const OF_WHAT_IS_SAID = [
  ['judging', 'tasks'],
  ['judging', 'standing'],
]

const ENDED = ['done', 'failed', 'cancelled']

export function followed(told: Told): Followed[] {
  switch (told.subject) {
    case 'again':
      return [...Object.values(OF_JOBS), ...OF_WHAT_IS_SAID, 'following']
    case 'records':
      return ['everything']
    case 'judging':
      return ['judging']
    case 'drafts':
      return [['rankers', 'drafts']]
    case 'following':
      return ['following']
    case 'said':
      return OF_WHAT_IS_SAID
    case 'jobs': {
      if (told.kind === 'joining') return []
      const own = OF_JOBS[told.kind]
      if (own[0] === 'tuning') return [own]
      if (told.kind === 'import' || told.kind === 'reading') return [[...own, String(told.id)]]
      if (!ENDED.includes(told.state)) return [own]
      // What was searched with other vectors is searched anew, and a new list is measured.
      return [told.kind === 'filling' ? 'everything' : 'measuring']
    }
  }
}
