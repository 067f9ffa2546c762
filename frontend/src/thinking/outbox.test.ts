import { describe, expect, it } from 'vitest'
import type { Said } from '../api/judging'
import { acknowledged, momentAfter, Outbox, parsedBox, put } from './outbox'

const said = (record: string, grade: number | null, at: string): Said => ({
  query_id: 'q1',
  record_key: record,
  grade,
  note: '',
  at,
  taken_back: false,
})

describe('what a judge said and the server does not know yet', () => {
  it('holds the last word about each record', () => {
    const box = put(put(put([], said('a', 1, 't1')), said('b', 2, 't2')), said('a', 3, 't3'))
    expect(box.map((one) => [one.record_key, one.grade])).toEqual([
      ['b', 2],
      ['a', 3],
    ])
  })

  it('keeps what was said again while it was sent', () => {
    const sent = [said('a', 1, 't1'), said('b', 2, 't2')]
    const box = put(sent, said('a', 0, 't3'))
    expect(acknowledged(box, sent)).toEqual([said('a', 0, 't3')])
  })

  it('survives a storage that holds something else', () => {
    expect(parsedBox(null)).toEqual([])
    expect(parsedBox('{"a": 1')).toEqual([])
    expect(parsedBox('[1, {"query_id": "q"}]')).toEqual([])
    expect(parsedBox(JSON.stringify([said('a', null, 't')]))).toEqual([said('a', null, 't')])
  })

  it('dates each word after the one before, whatever the clock does', () => {
    const now = new Date('2031-05-17T09:30:00.000Z')
    expect(momentAfter([null], now)).toBe('2031-05-17T09:30:00.000Z')
    expect(momentAfter(['2031-05-17T09:30:00.000Z'], now)).toBe('2031-05-17T09:30:00.001Z')
    expect(momentAfter([null, '2031-05-17T10:00:00.123456Z', '2031-05-17T09:00:00Z'], now)).toBe(
      '2031-05-17T10:00:00.124Z',
    )
  })

  it('is shared by all tabs of a judge', () => {
    const storage = new Map<string, string>()
    const shelf = {
      getItem: (name: string) => storage.get(name) ?? null,
      setItem: (name: string, text: string) => void storage.set(name, text),
    }
    const [one, other] = [new Outbox(shelf, 'ada'), new Outbox(shelf, 'ada')]
    one.change((box) => put(box, said('a', 1, 't1')))
    other.change((box) => put(box, said('b', 2, 't2')))
    one.change((box) => acknowledged(box, [said('a', 1, 't1')]))
    expect(one.waiting()).toEqual([said('b', 2, 't2')])
    expect(new Outbox(shelf, 'bo').waiting()).toEqual([])
  })

  it('waits in the page where the browser stores nothing, and says so', () => {
    const full = {
      getItem: () => null,
      setItem: () => {
        throw new Error('no room left')
      },
    }
    const box = new Outbox(full, 'ada')
    expect(box.stored).toBe(true)
    box.change((all) => put(all, said('a', 1, 't1')))
    box.change((all) => put(all, said('b', 2, 't2')))
    expect(box.stored).toBe(false)
    expect(box.waiting().map((one) => one.record_key)).toEqual(['a', 'b'])
  })
})
