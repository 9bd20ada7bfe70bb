// Match: the pair desk by keys, which letters differ, what the curve says, the rule as it is put together.
import { describe, expect, it as test } from 'vitest'
import { pieces, signed } from '@/stages/match/compare'
import { condition, expected, pointAt } from '@/stages/match/rule'
import { figures, page, protocol, record, Refused } from './page'

const loaded = async (path: string) => (await import(/* @vite-ignore */ `../src/${path}.vue`)).default
const messages = async () => (await import('@/common/messages')).messages
const side = (id: number, group: number, more: object = {}, verdicts: object[] = []) => ({
  id,
  origin: `Vitalis, line ${id}`,
  source: 'Vitalis',
  raw: `raw ${id}`,
  group,
  verdicts,
  record: record({ year: 2019, doi: '', ...more }),
})
const open = (id: number, more: object = {}) => ({
  id,
  score: 6.4,
  chance: 0.6,
  worth: 2,
  kind: '',
  how: '',
  title: 'Wraps',
  copies: 2,
  decided: 0,
  later: 0,
  holder: null,
  held_by: null,
  ...more,
})
const pair = (id: number, more: object = {}) => ({
  open: open(id),
  join_from: 11,
  ask_from: 5,
  left: side(1, 1),
  right: side(2, 2, { year: 2018, doi: '10.5555/x' }),
  others: [],
  says: '',
  kept: record({ year: 2019, doi: '10.5555/x' }),
  whose: { title: 0, year: 0, doi: 1 },
  evidence: [
    { field: 'title', weight: 4, says: 'the same' },
    { field: 'year', weight: -2.5, says: 'one apart' },
  ],
  ...more,
})

describe('the pair desk', () => {
  const desk = async (role = 'reviewer', more: Record<string, unknown> = {}) =>
    page(await loaded('stages/match/PairDesk'), '/reviews/4/match', {
      'GET /reviews/4/questions?by=worth': [open(5), open(6, { title: 'Lids', later: 1 })],
      'GET /reviews/4/questions': [open(5), open(6, { title: 'Lids', later: 1 })],
      'GET /reviews/4/questions/5': pair(5),
      'GET /reviews/4/questions/6': pair(6),
      'GET /reviews/4/protocol': protocol(role),
      'GET /reviews/4/figures': figures({ records: 8, found: 10 }),
      'GET /account': { id: 1, full_name: 'Tamsin' },
      'POST /reviews/4/questions/5/take': undefined,
      'POST /reviews/4/questions/6/take': undefined,
      'POST /reviews/4/questions/5/answer': { disagreements: [] },
      'POST /reviews/4/questions/5/later': undefined,
      'POST /reviews/4/questions/take-back': { question: 5 },
      ...more,
    })

  test('marks the letters that differ, and says the weight in figures and words and whose value is kept', async () => {
    const it = await desk()
    const row = [...it.box.querySelectorAll('.copies tr')].find((tr) => tr.textContent?.startsWith('Year'))!
    expect([...row.querySelectorAll('u.differs')].map((mark) => mark.textContent).join('')).toMatch(/^[98]+$/)
    expect(row.textContent).toContain('−2.5')
    expect(row.textContent).toContain('one apart')
    const rows = Object.fromEntries(
      [...it.box.querySelectorAll('.copies tbody tr')].map((tr) => [
        tr.children[0]!.textContent,
        tr.children[4]!.textContent.trim(),
      ]),
    )
    expect(rows.Title).toBe('all the same')
    expect(rows.DOI).toBe('copy 2')
    expect(it.text()).toContain('2 left')
    expect(it.asked('POST /reviews/4/questions/5/take')).toHaveLength(1)
  })

  test('answers by S, D and O and goes on to the next pair', async () => {
    const it = await desk()
    await it.press('s')
    expect(it.asked('POST /reviews/4/questions/5/answer')).toEqual([{ said: 'same' }])
    expect(it.router.currentRoute.value.query.pair).toBe('6')
    await it.press('Backspace')
    expect(it.asked('POST /reviews/4/questions/take-back')).toHaveLength(1)
    expect(it.router.currentRoute.value.query.pair).toBe('5')
    await it.press('d')
    expect(it.asked('POST /reviews/4/questions/5/answer').at(-1)).toEqual({ said: 'different' })
    await it.press('Backspace')
    await it.press('o')
    expect(it.asked('POST /reviews/4/questions/5/answer').at(-1)).toEqual({ said: 'related' })
  })

  test('puts off by L, shows the files’ own text by R and the other copies of the groups by G', async () => {
    const it = await desk('reviewer', { 'GET /reviews/4/questions/5': pair(5, { others: [side(3, 2)] }) })
    expect(it.text()).toContain('Groups of 1 and 2 copies')
    await it.press('r')
    expect(it.text()).toContain('raw 1')
    expect(it.text()).not.toContain('raw 3')
    await it.press('g')
    expect(it.text()).toContain('raw 3')
    await it.press('l')
    expect(it.asked('POST /reviews/4/questions/5/later')).toHaveLength(1)
    expect(it.text()).not.toContain('raw 1')
  })

  test('says who looks at a pair, and why it is asked, and that both were decided', async () => {
    const decided = pair(5, {
      says: 'one is a preprint',
      left: side(1, 1, {}, [{ pass_number: 1, verdict: 'include', reason: null, by: 'Odile' }]),
      right: side(2, 2, {}, [{ pass_number: 1, verdict: 'exclude', reason: 'Not bees', by: 'Rudd' }]),
    })
    const it = await desk('reviewer', {
      'GET /reviews/4/questions/5': decided,
      'POST /reviews/4/questions/5/take': new Refused(409, 'Odile is looking at this pair.'),
    })
    for (const words of [
      'Asked because one is a preprint',
      'decided already, and differently',
      'Not bees',
      'Odile is looking at this pair.',
    ])
      expect(it.text()).toContain(words)
    await it.press('s')
    expect(it.asked('POST /reviews/4/questions/5/answer')).toEqual([])
  })

  test('keeps the pair when the answer is refused, and says why; an observer answers nothing', async () => {
    const it = await desk('reviewer', {
      'POST /reviews/4/questions/5/answer': new Refused(409, 'Somebody answered this pair a moment ago.'),
    })
    await it.press('s')
    expect((await messages()).value[0]).toMatchObject({ text: 'Somebody answered this pair a moment ago.', bad: true })
    expect(it.router.currentRoute.value.query.pair).toBe('5')
    const watching = await desk('observer')
    await watching.press('s')
    expect(watching.asked('POST /reviews/4/questions/5/answer')).toEqual([])
    expect(watching.button('Same')).toBeUndefined()
  })
})

describe('copies side by side', () => {
  test('marks what differs from the first that says something', () => {
    const marked = (texts: string[]) =>
      pieces(texts).map((all) =>
        all
          .filter((it) => it.differs)
          .map((it) => it.text)
          .join(''),
      )
    expect(marked(['abc', 'abd', 'abc'])).toEqual(['c', 'd', ''])
    expect(marked(['', 'abc', ''])).toEqual(['', '', ''])
    expect(pieces(['', ''])).toEqual([[], []])
    expect(marked(['Cork hives', 'CORK LIDS'])).toEqual(['hive', 'LID'])
    expect(pieces(['Cork', 'CORK'])[1]).toEqual([{ text: 'CORK', differs: false }])
  })

  test('writes weights with their sign', () => {
    expect([2.54, -0.6, 0.01].map(signed)).toEqual(['+2.5', '−0.6', '0.0'])
  })
})

describe('the curve', () => {
  const curve = [
    { weight: 0, links: 50, wrong: 6, missed: 0 },
    { weight: 5, links: 44, wrong: 2, missed: 1 },
    { weight: 10, links: 40, wrong: 0.5, missed: 3 },
  ]

  test('says what to expect of two weights', () => {
    expect(expected(curve, 10, 5)).toEqual({ joined: 40, wrong: 0.5, asked: 4, missed: 1 })
    expect(expected(curve, 99, 7)).toEqual({ joined: 40, wrong: 0.5, asked: 4, missed: 1 })
    expect(pointAt([], 3)).toEqual({ weight: 0, links: 0, wrong: 0, missed: 0 })
  })

  test('names conditions as the team reads them', () => {
    expect([condition('year', 1), condition('title', 'closely')]).toEqual(['Year ± 1', 'Title closely'])
  })
})

describe('the rule', () => {
  const rule = {
    name: 'Weights alone',
    about: '',
    version: 1,
    weights: true,
    join_from: null,
    ask_from: null,
    alike: {},
    trust: [],
    passes: [],
  }
  const screen = async () =>
    page(await loaded('stages/match/Rule'), '/reviews/4/match/rule', {
      'GET /reviews/4/match-rule': {
        rule,
        text: '',
        own: false,
        join_from: 11,
        ask_from: 6,
        records: 40,
        curve: [
          { weight: 0, links: 9, wrong: 1, missed: 0 },
          { weight: 11, links: 7, wrong: 0, missed: 1 },
        ],
        alike: [{ name: 'preprint', says: 'one is a preprint', then: 'ask', related: true, left_apart: 0 }],
        fields: ['title', 'year', 'doi'],
        closely: ['title'],
        finding: ['title'],
      },
      'GET /reviews/4/match-rule/versions': [],
      'GET /reviews/4/removed-copies': {
        by: [],
        within: 0,
        between: 0,
        sources: [
          { source: 'Vitalis', copies: 9, surplus: 1, within: 0 },
          { source: 'Agrarica', copies: 9, surplus: 1, within: 0 },
        ],
      },
      'GET /reviews/4/protocol': protocol('lead'),
      'GET /reviews/4/figures': figures({}),
      'POST /reviews/4/match-rule/check': { rule, text: 'name = "x"' },
      'POST /reviews/4/trials': { id: 3 },
    })

  test('is tried as it was put together, and nothing changes before', async () => {
    sessionStorage.clear()
    const it = await screen()
    expect(it.text()).toContain('At this setting 7 links are joined')
    await it.click('Add a pass')
    expect(it.text()).toContain('Changed, not tried')
    await it.click('Try it')
    const sent = it.asked('POST /reviews/4/match-rule/check')[0] as {
      rule: { passes: { name: string; agree: object }[] }
    }
    expect(sent.rule.passes).toMatchObject([{ name: 'Pass 1', agree: { title: 'exactly' } }])
    expect(it.asked('POST /reviews/4/trials')).toEqual([{ text: 'name = "x"' }])
    expect(it.router.currentRoute.value.path).toBe('/reviews/4/match/dry-runs/3')
  })
})
