import { expect, test } from 'vitest'
import type { Check, Quality, VersionQuality } from '../api/quality'
import { checkText, labelled, newestChecks, pointsOf, qualityTable, spanOf } from './quality'

const version = (ranker: string, number: number, mean: number | null) =>
  ({ ranker, version: number, mean, kept_at: 't', note: '', gained: null, lost: null, problem: null }) as VersionQuality
const check = (ranker: string, ...holds: boolean[]) =>
  ({
    ranker,
    against: null,
    checked_at: 't',
    holds: holds.every(Boolean),
    rules: holds.map((one) => ({ text: 'r', holds: one, found: '' })),
  }) as Check
const told = (versions: VersionQuality[], checks: Check[] = []) =>
  ({ measure: 'ndcg@10', queries: 9, versions, checks, older: 0 }) as Quality

test('a version that cannot be asked any more has its place in the order and no point', () => {
  const points = pointsOf(told([version('a', 1, 0.5), version('a', 2, null), version('b', 1, 0.6)]))
  expect(points.map(({ order, mean }) => [order, mean])).toEqual([
    [1, 0.5],
    [3, 0.6],
  ])
})

test('of up to six rankers each newest point says whose it is, of more those with a course alone', () => {
  const of = (...rankers: string[]) => rankers.map((ranker, i) => ({ ranker, version: i, order: i, mean: 0.5 }))
  expect(labelled(of('a', 'b', 'a')).map(({ ranker, version }) => `${ranker}${version}`)).toEqual(['a2', 'b1'])
  expect(labelled(of('a', 'b', 'c', 'd', 'e', 'f'))).toHaveLength(6)
  expect(labelled(of('a', 'b', 'c', 'd', 'e', 'f', 'g', 'a')).map(({ version }) => version)).toEqual([7])
})

test('the span is wider than the means, never below 0', () => {
  expect(spanOf([{ ranker: 'a', version: 1, order: 1, mean: 0.01 }])).toEqual([0, 0.03])
  const [low, high] = spanOf([0.2, 0.6].map((mean, i) => ({ ranker: 'a', version: i, order: i, mean })))
  expect(low).toBeCloseTo(0.14)
  expect(high).toBeCloseTo(0.66)
})

test('of several checks of a version the newest counts', () => {
  const found = newestChecks([check('a:1', true), check('a:1', false), check('b:1', false, true)])
  expect(found.get('a:1')?.holds).toBe(true)
  expect(checkText(check('b:1', false, true))).toBe('1 of 2 rules broken')
  expect(checkText(check('b:1', true, true))).toBe('2 of 2 rules hold')
})

test('each version is a row, with its newest check', () => {
  expect(qualityTable(told([version('a', 1, 0.5)], [check('a:1', false)]))[1]).toEqual([
    'a',
    1,
    't',
    0.5,
    '',
    '',
    '1 of 1 rules broken',
    '',
  ])
})
