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
  device: null,
  order: null,
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

  it('counts what a device says, in all of its tabs and over its visits', () => {
    const storage = new Map<string, string>()
    const shelf = {
      getItem: (name: string) => storage.get(name) ?? null,
      setItem: (name: string, text: string) => void storage.set(name, text),
    }
    const one = new Outbox(shelf, 'ada', () => 'phone')
    expect(one.numbered({ grade: 1 })).toEqual({ grade: 1, device: 'phone', order: 1 })
    const other = new Outbox(shelf, 'ada', () => 'another name')
    expect(other.numbered({})).toEqual({ device: 'phone', order: 2 })
    expect(one.numbered({})).toEqual({ device: 'phone', order: 3 })
  })

  it('counts for one visit where the browser stores nothing', () => {
    const full = {
      getItem: () => null,
      setItem: () => {
        throw new Error('no room left')
      },
    }
    const box = new Outbox(full, 'ada', () => 'this visit')
    expect([box.numbered({}).order, box.numbered({}).order]).toEqual([1, 2])
    expect(box.numbered({}).device).toBe('this visit')
  })
})
