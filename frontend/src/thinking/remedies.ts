// What would help a ranker, in words and tables.
import type { Remedies, RemedyGroup, Tried } from '../api/tuning'

type Ails = RemedyGroup['ails']

const TITLES: Record<Ails, string> = {
  'shut out': 'Shut out by a filter or a rule',
  'unknown words': 'Words that no record holds',
  'other words': 'Good records say it in other words',
  'too few words': 'Good records hold too few of the words needed',
  'in no list': 'In no list that is asked',
  outranked: 'Outranked',
  'unjudged above': 'Too little is judged',
}

export const groupTitle = ({ ails, part }: Pick<RemedyGroup, 'ails' | 'part'>) =>
  part === '' ? TITLES[ails] : `${TITLES[ails]} by ${part}`

export const groupHint = ({ ails }: Pick<RemedyGroup, 'ails'>): string | null =>
  ails === 'unjudged above'
    ? 'More than half of their first records are unjudged: nobody can tell yet how good they are.'
    : null

// How many different changes were tried, over all groups.
export const triedInAll = (groups: readonly RemedyGroup[]) =>
  new Set(groups.flatMap(({ tried }) => tried.map(({ words }) => words))).size

const LUCK = 0.05

// Whether a difference is told apart from luck, though so many were looked at: each of them had its chance.
export const isBeyondLuck = ({ p }: Pick<Tried, 'p'>, looks: number) => p * looks < LUCK

export const remediesTable = ({ groups }: Remedies): (string | number)[][] => [
  ['group', 'queries', 'change', 'gain', 'low', 'high', 'gained', 'lost', 'gained here', 'lost here', 'p'],
  ...groups.flatMap((group) =>
    group.tried.map((one) => [
      ...[groupTitle(group), group.queries.length, one.words, one.gain, one.low, one.high],
      ...[one.gained, one.lost, one.gained_here, one.lost_here, one.p],
    ]),
  ),
]
