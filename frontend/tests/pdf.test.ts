// Words on a drawn page: found over several pieces, marked, and unmarked without a trace.
import { beforeEach, describe, expect, it } from 'vitest'
import { findOn, mark, unmark } from '@/common/pdf'
import { termsOf } from '@/stages/screen/terms'

let page: HTMLElement
const said = (passages: ReturnType<typeof findOn>) =>
  passages.map((it) => it.nodes.map(({ node, begin, end }) => node.data.slice(begin, end)).join('|'))
beforeEach(() => {
  page = document.createElement('div')
  page.innerHTML = '<span>Wintering of honey-</span><span>bee colonies</span><span> in Winter, winters (2 kg)</span>'
})

describe('A word on a page', () => {
  it.each([
    ['winter', true, ['Winter']],
    ['winter*', true, ['Wintering', 'Winter', 'winters']],
    ['winter', false, ['Winter', 'Winter', 'winter']],
    ['honey bee', true, ['honey-|bee']],
    ['bee colonies', true, ['bee colonies']],
    ['colonies in winter', false, ['colonies| in Winter']],
    ['(2 kg)', false, ['(2 kg)']],
    ['   ', true, []],
  ])('“%s”, as a term %s', (wanted, whole, found) => {
    expect(said(findOn(page, wanted, whole))).toEqual(found)
  })

  it('is marked over pieces, and unmarked without a trace', () => {
    const before = page.innerHTML
    mark(findOn(page, 'colonies in winter', false), 'found')
    expect([...page.querySelectorAll('mark.found')].map((it) => it.textContent)).toEqual(['colonies', ' in Winter'])
    mark(findOn(page, 'winter*', true), 'for own')
    expect(page.textContent).toBe('Wintering of honey-bee colonies in Winter, winters (2 kg)')
    for (const name of ['found', 'for']) unmark(page, name)
    expect(page.innerHTML).toBe(before)
  })
})

describe('The terms of a full text', () => {
  const mark_ = (begin: number, end: number, supports: boolean, own: boolean) => ({ begin, end, supports, own })
  it('are those of the team, then what the order learned, each once', () => {
    const record = { title: 'Wrapped hives', abstract: 'Hives in summer' } as never
    expect(
      termsOf({
        record,
        title_marks: [mark_(0, 7, true, false), mark_(8, 13, true, true)],
        abstract_marks: [mark_(9, 15, false, false)],
        own_words: [{ word: 'hive*', supports: true }],
      }),
    ).toEqual([
      { term: 'hive*', supports: true, own: true },
      { term: 'wrapped', supports: true, own: false },
      { term: 'summer', supports: false, own: false },
    ])
  })
})
