// What has to be asked for anew once the server has told of something.
export type Told =
  | { subject: 'jobs'; kind: 'import' | 'filling' | 'asking' | 'reading'; id: number; state: string }
  | { subject: 'records' | 'judging'; id: number; revision: number }
  | { subject: 'again' }

export type Key = readonly (string | number)[] | 'all'

const OF_JOBS: Record<'import' | 'filling' | 'asking' | 'reading', string> = {
  import: 'import',
  filling: 'spaces',
  asking: 'outside',
  reading: 'reckoning',
}

// What follows from the queries and grades of a judged set.
export const OF_JUDGING = [
  'judged sets',
  'judged',
  'set queries',
  'tasks',
  'standing',
  'expectations',
  'measured',
  'compared',
  'overview',
  'owner page',
  'diary',
  'runs',
  'outside',
  'sides',
]

// What is asked of one record, which may be gone: whoever changed it asks again.
export const OF_ONE_RECORD = ['record', 'earlier', 'readings', 'why', 'why not', 'nearest', 'map']

const ENDED = ['done', 'failed', 'cancelled']

export function followed(told: Told): Key[] {
  switch (told.subject) {
    case 'again':
      return Object.values(OF_JOBS).map((key) => [key])
    case 'records':
      return ['all']
    case 'judging':
      return OF_JUDGING.map((key) => [key])
    case 'jobs': {
      const own: Key =
        told.kind === 'import' || told.kind === 'reading' ? [OF_JOBS[told.kind], String(told.id)] : [OF_JOBS[told.kind]]
      if (!ENDED.includes(told.state)) return [own]
      // What was searched with other vectors is searched anew, and a new list is measured.
      if (told.kind === 'filling') return ['all']
      return told.kind === 'asking' ? [own, ...OF_JUDGING.map((key) => [key])] : [own]
    }
  }
}
