// The evidence table's rows and columns, what is brought since, the codebook's outline, and quotes on a page.
import { describe, expect, it } from 'vitest'
import { valuesOf } from './page' // before what asks the server
import { findQuote } from '@/common/pdf'
import { drafted, move, outline, said } from '@/stages/chart/book'
import { brought } from '@/stages/chart/evidence'
import {
  columnsOf,
  keyOf,
  placeAt,
  placesOf,
  rowsOf,
  type Factor,
  type Item,
  type Level,
  type Study,
} from '@/stages/chart/layout'
import { drawnTree } from '@/stages/chart/tree'

const item = (id: number, name: string, per: Factor[] = []) => ({ id, name, kind: 'text', per }) as unknown as Item
const level = (id: number, factor: Factor, name: string, study: number | null = null): Level => ({
  id,
  factor,
  name,
  study,
})
const study = (id: number, label: string): Study => ({ id, label, reports: [] })
const ITEMS = [item(1, 'Site'), item(2, 'Alive', ['arm']), item(3, 'Weight', ['arm', 'time'])]
const LEVELS = [
  level(10, 'arm', 'Foam'),
  level(11, 'arm', 'Plain'),
  level(12, 'arm', 'Half', 5),
  level(20, 'time', 'May'),
  level(21, 'time', 'June'),
]
const STUDIES = [study(5, 'Orsel 1998'), study(6, 'Ames 2003')]

describe('Rows and columns', () => {
  it.each([
    [['time'], 1 + 3 + 3, 2 * 3],
    [['arm'], 1 + 1 + 2, 2 + 3 + 2],
    [['arm', 'time'], 3, 2 + (3 + 2) + (6 + 4)],
    [[], 1 + 3 + 6, 2],
  ] as [Factor[], number, number][])('with %j as rows', (rows, columns, lines) => {
    const across = columnsOf(ITEMS, LEVELS, rows)
    const down = rowsOf(STUDIES, ITEMS, LEVELS, rows)
    expect([across.length, down.length]).toEqual([columns, lines])
    const places = down.flatMap((row) => across.flatMap((column) => placeAt(row, column, LEVELS) ?? []))
    const all = STUDIES.flatMap((it) => placesOf(it.id, ITEMS, LEVELS))
    expect(places.map(keyOf).sort()).toEqual(all.map(keyOf).sort())
    expect(new Set(places.map(keyOf)).size).toBe(places.length)
  })

  it('have no cell for an arm that another study has for itself', () => {
    const across = columnsOf(ITEMS, LEVELS, [])
    const ames = rowsOf(STUDIES, ITEMS, LEVELS, []).find((it) => it.study.id === 6)!
    const half = across.find((it) => it.title === 'Alive, Half')!
    expect(placeAt(ames, half, LEVELS)).toBeNull()
  })
})

it('What was written since replaces what is held, and what was cleared is gone', () => {
  const table = (upto: number, values: Record<string, unknown>[]) =>
    ({
      codebook: { items: ITEMS },
      levels: LEVELS,
      studies: STUDIES,
      values: valuesOf(...values),
      upto,
    }) as never
  const first = brought(
    undefined,
    table(2, [
      { study: 5, item: 1, text: 'Upland' },
      { study: 6, item: 1, text: 'Coast' },
    ]),
  )
  const then = brought(
    first,
    table(4, [
      { study: 5, item: 1, text: '' },
      { study: 6, item: 1, text: 'Inland' },
    ]),
  )
  expect([...then.values.values()].map((it) => it.text)).toEqual(['Inland'])
  expect(first.values.size).toBe(2)
})

describe('The outline of a codebook', () => {
  const book = drafted({
    items: [
      { id: 1, name: 'Loose', kind: 'text', concept: '' },
      { id: 2, name: 'Alive', kind: 'counts', concept: 'Survival', per: ['arm'], choices: [], low: 2 },
      { id: 3, name: 'Dead', kind: 'counts', concept: 'Survival' },
    ],
    concepts: [
      { id: 1, name: 'Outcome', within: '' },
      { id: 2, name: 'Survival', within: 'Outcome' },
    ],
    levels: [{ id: 1, factor: 'arm', name: 'Foam', words: ['wrapped', 'insulated'] }],
  } as never)
  const shown = () => outline(book).map((it) => `${' '.repeat(it.depth)}${it.part.name}`)

  it('nests items under their concepts', () => {
    expect(shown()).toEqual(['Loose', 'Outcome', ' Survival', '  Alive', '  Dead', 'Foam'])
  })
  it('changes the order among those beside each other only', () => {
    const beside = (it: { concept: string }) => it.concept === 'Survival'
    move(book.items, book.items[2]!, -1, beside)
    move(book.items, book.items[1]!, -1, beside)
    expect(shown()).toEqual(['Loose', 'Outcome', ' Survival', '  Dead', '  Alive', 'Foam'])
  })
  it('goes out as it came in', () => {
    const out = said(book)
    expect(out.items.map((it) => [it.name, it.low, it.per])).toEqual([
      ['Loose', null, []],
      ['Dead', null, []],
      ['Alive', 2, ['arm']],
    ])
    expect(out.levels[0]!.words).toEqual(['wrapped', 'insulated'])
  })
})

describe('A quote on a page', () => {
  const page = document.createElement('div')
  page.innerHTML =
    '<span>Of the insu-</span><span>lated colonies 86 of 106 </span><span>(81&nbsp;%) were alive. Wrapped 12 9</span>'
  const said_ = (quote: string) =>
    findQuote(page, quote).map((it) => it.nodes.map(({ node, begin, end }) => node.data.slice(begin, end)).join('|'))
  it.each([
    [
      'Of the insulated colonies 86 of 106 (81 %) were alive.',
      ['Of the insu-|lated colonies 86 of 106 |(81\u00a0%) were alive'],
    ],
    ['86 of 106', ['86 of 106']],
    ['Wrapped 12 9 Of the insulated colonies', ['Of the insu-|lated colonies']],
    ['Nothing like this stands here', []],
    ['', []],
  ])('“%s”', (quote, found) => expect(said_(quote)).toEqual(found))
})

it('Concepts stand beside the middle of their narrower ones, and a band is as thick as there are studies', () => {
  const tree = drawnTree([
    { id: 1, name: 'Outcome', within: '', studies: [1, 2] },
    { id: 2, name: 'Survival', within: 'Outcome', studies: [1, 2] },
    { id: 3, name: 'Food', within: 'Outcome', studies: [] },
    { id: 4, name: 'Setting', within: 'Gone', studies: [3] },
  ])
  expect(tree.nodes.map((it) => [it.name, it.x, it.y])).toEqual([
    ['Outcome', 0, 30],
    ['Survival', 260, 0],
    ['Food', 260, 60],
    ['Setting', 0, 120],
  ])
  expect(tree.bands.map((it) => it.key)).toEqual(['1-2', '1-3'])
  expect(tree.bands[0]!.d).not.toBe(tree.bands[1]!.d)
})
