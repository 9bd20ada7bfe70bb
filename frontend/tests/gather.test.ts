// The rules behind the views of Gather: the log's order, what a rule for narrowing says, which label a line has.
import { describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import { arranged, explained, gapOf, type Search } from '@/stages/gather/log'
import { FRESH, ruleOf } from '@/stages/gather/narrowing'
import { rowGrid, useColumns } from '@/stages/gather/records'

const run = (more: object = {}) => ({
  id: 1,
  number: 1,
  query: 'wrap*',
  limits: '',
  run_on: '2026-02-04',
  run_by: 'TL',
  announced: null,
  notes: '',
  files: 0,
  imported: 0,
  waiting: 0,
  new: 0,
  fetched: 0,
  state: '',
  catalogue: null,
  failure: '',
  understood: [],
  query_version: null,
  made_at: '',
  ...more,
})
const entry = (number: number, source: string, more: object = {}) =>
  ({
    id: number,
    number,
    source,
    kind: 'database',
    notes: '',
    query: '',
    run_on: '2026-02-04',
    run_by: '',
    limits: '',
    announced: null,
    files: 0,
    imported: 0,
    waiting: 0,
    announced_in_all: null,
    difference: null,
    runs: [run()],
    ...more,
  }) as unknown as Search

describe('the search log', () => {
  const log = [
    entry(1, 'Vitalis', { imported: 9, difference: -3 }),
    entry(2, 'Agrarica', { imported: 40 }),
    entry(3, 'Theses', { imported: 40, difference: 7, runs: [run({ query: 'hive*', notes: 'two parts' })] }),
  ]
  it('is sorted by any column, ties as in the log', () => {
    expect(arranged(log, '', 'source', false).map((one) => one.number)).toEqual([2, 3, 1])
    expect(arranged(log, '', 'imported', true).map((one) => one.number)).toEqual([2, 3, 1])
    expect(arranged(log, '', 'difference', true).map((one) => one.number)).toEqual([3, 1, 2])
  })
  it('is filtered by words of its entries and runs', () => {
    expect(arranged(log, 'HIVE parts', 'number', false).map((one) => one.number)).toEqual([3])
    expect(arranged(log, 'nowhere', 'number', false)).toEqual([])
  })
  it('explains a difference by a note of the entry or of a run, and has none where nothing came yet or a catalogue was asked', () => {
    expect(log.map(explained)).toEqual([false, false, true])
    expect(gapOf(run({ announced: 9 }) as never)).toBeNull()
    expect(gapOf(run({ announced: 9, files: 1, imported: 7 }) as never)).toBe(-2)
    expect(gapOf(run({ announced: 9, files: 1, imported: 7, catalogue: 'Union' }) as never)).toBeNull()
  })
})

describe('a rule for narrowing', () => {
  it('goes to the server with its limits as figures, and what is no year is none', () => {
    expect(ruleOf({ ...FRESH, before: '1990', language: 'ger' })).toMatchObject({
      before: 1990,
      after: null,
      language: 'ger',
    })
    expect(ruleOf({ ...FRESH, before: '19', name: ' Old ', query: ' wax ' })).toMatchObject({
      before: null,
      name: 'Old',
      query: 'wax',
    })
  })
})

describe('columns of the table of records', () => {
  it('are kept in their order, and a broken memory is no fault', async () => {
    localStorage.setItem('kettle-record-columns', 'not json')
    const { columns, toggle } = useColumns()
    expect(columns.value).toEqual(['sources'])
    toggle('doi')
    toggle('labels')
    expect(columns.value).toEqual(['sources', 'labels', 'doi'])
    toggle('sources')
    await nextTick()
    expect(JSON.parse(localStorage.getItem('kettle-record-columns')!)).toEqual(['labels', 'doi'])
    expect(rowGrid(['doi', 'kind']).match(/minmax\(80px/g)).toHaveLength(2)
  })
})
