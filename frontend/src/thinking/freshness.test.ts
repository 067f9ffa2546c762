import { describe, expect, test } from 'vitest'
import { ProblemError } from '../api/client'
import { firstError, freshness, isOutdated, type Standing } from './freshness'

const problem = (status: number) =>
  new ProblemError({
    type: 'about:blank',
    title: '',
    status,
    detail: `status ${status}`,
    problems: [],
    expected: [],
    place: null,
    nearest: null,
  })
const CURRENT: Standing = {
  isPlaceholderData: false,
  isFetching: false,
  isError: false,
  failureCount: 0,
  failureReason: null,
  error: null,
}
const kept: Standing = { ...CURRENT, isPlaceholderData: true, isFetching: true }
const again: Standing = { ...CURRENT, isFetching: true }
const tried: Standing = { ...kept, failureCount: 1, failureReason: problem(0) }
const given: Standing = { ...CURRENT, isError: true, failureCount: 20, error: problem(0) }
const refused: Standing = { ...CURRENT, isError: true, failureCount: 1, error: problem(422) }

describe('freshness', () => {
  test('an answer that came is current, until it is asked for again', () => {
    expect(freshness(CURRENT)).toBe('current')
    expect(freshness(again)).toBe('renewing')
    expect(freshness(kept)).toBe('renewing')
  })

  test('the first attempt that fails is told, not the twentieth', () => {
    expect(freshness(tried)).toBe('silent')
    expect(freshness(given)).toBe('silent')
  })

  test('what the server refused is no silence', () => {
    expect(freshness(refused)).toBe('refused')
    expect(freshness(given, refused)).toBe('refused')
  })

  test('of several the worst is told', () => {
    expect(freshness(CURRENT, CURRENT)).toBe('current')
    expect(freshness(CURRENT, kept)).toBe('renewing')
    expect(freshness(kept, given)).toBe('silent')
  })
})

test('what is kept from another draft, or while the server is silent, is out of date; what is asked again is not', () => {
  expect(isOutdated(CURRENT, again)).toBe(false)
  expect(isOutdated(CURRENT, kept)).toBe(true)
  expect(isOutdated({ ...again, failureCount: 1, failureReason: problem(0) })).toBe(true)
})

test('the error that is told is the one of now: of an attempt under way, or the last', () => {
  expect(firstError(CURRENT, tried)?.message).toBe('status 0')
  expect(firstError(refused)?.message).toBe('status 422')
  expect(firstError({ ...CURRENT, failureReason: problem(0) })).toBeNull()
})
