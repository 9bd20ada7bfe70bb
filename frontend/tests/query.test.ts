// One query in three views.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { figures, page, protocol } from './page'

const good = (text: string) => ({
  text,
  typed: [] as string[][],
  concepts: [{ label: '', joint: 'any', terms: [text], left_out: false, fields: [] }],
  lines: [text],
  notes: [],
  problem: null,
})
const wrong = {
  message: 'AND needs something on its right.',
  begin: 6,
  end: 9,
  expected: 'a word',
  mend: 'leave AND out',
  line: null,
  concept: null,
  term: null,
}
const branch = (path: number[], text: string, hits: number, more: object = {}) => ({
  path,
  text,
  query: text,
  label: '',
  joint: '',
  hits,
  seeds: [],
  without_hits: null,
  adds: null,
  lost_seeds: [],
  remark: '',
  ...more,
})
const trial = {
  branches: [
    branch([], 'wrap* OR foam', 40, { joint: 'any', seeds: [0] }),
    branch([0], 'wrap*', 30, { seeds: [0], without_hits: 12, lost_seeds: [0], remark: 'alone brings a seed' }),
    branch([1], 'foam', 1200, { without_hits: 40, remark: 'adds nothing' }),
  ],
  seeds: [
    { id: 7, title: 'Wraps', authors: ['Orsel, T'], year: 1998, found: true },
    { id: 8, title: 'Lids', authors: ['Ames, R'], year: 2003, found: false },
  ],
  records: 2000,
  recall: { low: 0.01, high: 0.99 },
  breakdown: {
    year: [
      { value: '', count: 3, term: '' },
      { value: '1998', count: 37, term: 'year:1998' },
    ],
    type: [],
    language: [],
    journal: [{ value: 'Annals of "Bees"', count: 2 }],
    descriptor: [],
  },
}
const steps = {
  steps: [
    {
      id: 2,
      text: 'wrap* OR foam',
      note: '',
      version: null,
      at: '2026-03-01T10:00:00Z',
      by: 'Tamsin',
      hits: 40,
      seeds: 1,
    },
    { id: 1, text: 'wrap*', note: 'Begin', version: 1, at: '2026-02-01T10:00:00Z', by: 'Rudd', hits: 30, seeds: 1 },
  ],
  seeds: 2,
}

const open = async (view = 'text', role = 'lead', more: object = {}) =>
  page((await import('@/stages/plan/Query.vue')).default, `/reviews/4/plan/query?view=${view}`, {
    'GET /reviews/4/query/steps': steps,
    'GET /reviews/4/protocol': protocol(role, { elements: [{ label: 'Care', terms: ['wrap', 'hive cover'] }] }),
    'GET /reviews/4/figures': figures({ seeds: 2 }),
    'POST /reviews/4/query/read': (said: { text?: string; lines?: string[]; concepts?: { terms: string[] }[] }) => {
      const text =
        said.text ?? said.lines?.at(-1) ?? said.concepts?.map((it) => it.terms.join(' OR ')).join(' AND ') ?? ''
      const typed = (said.concepts ?? []).map((it) =>
        it.terms.map((term) => (term === 'hive cover' ? `"${term}"` : term)),
      )
      return text.endsWith('AND') ? { ...good(''), concepts: [], lines: [], problem: wrong } : { ...good(text), typed }
    },
    'POST /reviews/4/query/limited': (said: { text: string; term: string }) => ({
      text: `(${said.text}) AND ${said.term}`,
    }),
    'POST /reviews/4/query/trial': trial,
    'POST /reviews/4/query/steps': steps,
    'POST /reviews/4/query/compare': {
      both: 28,
      only_one: 12,
      only_other: 2,
      seeds_one: [],
      seeds_other: [{ id: 8, title: 'Lids' }],
    },
    ...more,
  })
const pause = () => new Promise((done) => setTimeout(done, 360))

beforeEach(() => localStorage.clear())
afterEach(() => vi.restoreAllMocks())

describe('a query in its views', () => {
  it('begins with the newest step, and counts it', async () => {
    const it = await open()
    await it.settled()
    expect((it.field('Query') as HTMLTextAreaElement).value).toBe('wrap* OR foam')
    for (const words of [
      '1,200',
      'alone brings a seed',
      'adds nothing',
      '−28',
      '±0',
      'only by wrap*',
      'missed',
      'between 1 % and 99 %',
    ])
      expect(it.text()).toContain(words)
    const link = [...it.box.querySelectorAll('a')].find((a) => a.textContent === '1,200')
    expect(decodeURIComponent(link!.getAttribute('href')!)).toContain('query=foam')
  })

  it('keeps the last good state in the other views, says where it is wrong, and forgets nothing that was typed', async () => {
    const it = await open()
    await it.settled()
    await it.type('Query', 'wrap* AND')
    await pause()
    await it.settled()
    expect(it.text()).toContain('AND needs something on its right.')
    expect(it.box.querySelector('.at')?.textContent).toBe('AND')
    expect(it.button('Keep as version')!.disabled).toBe(true)
    await it.press('l')
    expect((it.field('Line 1') as HTMLInputElement).value).toBe('wrap* OR foam')
    expect(it.text()).toContain('It stands in the view Text')
    await it.press('t')
    expect(it.field('Query').value).toBe('wrap* AND')
    expect(localStorage.getItem('kettle-query-4')).toBe('wrap* AND')
    const again = await open()
    await again.settled()
    expect(again.field('Query').value).toBe('wrap* AND')
  })

  it('explains what can be written, by one key', async () => {
    const it = await open()
    await it.settled()
    await it.press('g')
    expect(it.text()).toContain('What can be written')
  })

  it('shows which seeds a branch finds', async () => {
    const it = await open()
    await it.settled()
    await it.click('0 of 2 seeds found by foam')
    expect(it.text()).toContain('Found by foam')
    expect([...it.box.querySelectorAll('.shape svg')].map((shape) => shape.getAttribute('aria-label'))).toEqual([
      'missed',
      'missed',
    ])
  })

  it('takes a term with blanks as a phrase, several at once, and gives a removed one back', async () => {
    const it = await open('concepts')
    await it.settled()
    await it.type('Add a term to concept 1', 'hive cover; lid*')
    await it.press('Enter', it.field('Add a term to concept 1'))
    await pause()
    const sent = it.asked('POST /reviews/4/query/read').at(-1) as { concepts: { terms: string[] }[] }
    expect(sent.concepts[0]!.terms).toEqual(['wrap* OR foam', 'hive cover', 'lid*'])
    expect(it.button('Remove "hive cover"')).toBeDefined()
    await it.click('Remove lid*')
    const { messages } = await import('@/common/messages')
    await messages.value[0]?.undo?.()
    await pause()
    expect((it.asked('POST /reviews/4/query/read').at(-1) as typeof sent).concepts[0]!.terms).toContain('lid*')
  })

  it('keeps what was typed when the view is left before it is read', async () => {
    let answer = (_: unknown) => {}
    const late = new Promise((done) => (answer = done))
    const it = await open('concepts', 'lead')
    await it.settled()
    it.answers['POST /reviews/4/query/read'] = () => late
    await it.type('Add a term to concept 1', 'lid*')
    await it.press('Enter', it.field('Add a term to concept 1'))
    await pause() // the server is asked, and slow
    const again = await open()
    answer(good('wrap* OR foam OR lid*'))
    await again.settled()
    expect(again.field('Query').value).toBe('wrap* OR foam OR lid*')
  })

  it('goes back to a step, compares with it, and limits the hits', async () => {
    const it = await open()
    await it.settled()
    await it.click('Compare with version 1')
    expect(it.text()).toContain('seeds lost: Lids')
    await it.click('only 1998')
    expect(it.asked('POST /reviews/4/query/read').at(-1)).toEqual({ text: '(wrap* OR foam) AND year:1998' })
    await it.click('Version 1: Begin')
    expect(it.field('Query').value).toBe('wrap*')
  })

  it('begins with the elements of the question when there is nothing yet, and lets an observer look only', async () => {
    const it = await open('concepts', 'lead', { 'GET /reviews/4/query/steps': { steps: [], seeds: 2 } })
    await it.settled()
    await it.click('Begin with the elements')
    await pause()
    expect(it.asked('POST /reviews/4/query/read').at(-1)).toEqual({
      concepts: [{ label: 'Care', joint: 'any', terms: ['wrap', 'hive cover'], left_out: false, fields: [] }],
    })
    const watcher = await open('text', 'observer')
    await watcher.settled()
    expect((watcher.field('Query') as HTMLTextAreaElement).readOnly).toBe(true)
    expect(watcher.button('Keep as version')).toBeUndefined()
  })
})

describe('words of the seeds', () => {
  const word = (term: string, more: object = {}) => ({
    term,
    forms: [term],
    terms: [`to be put: ${term}`],
    found_by: `"${term}"`,
    seeds: 2,
    title: 1,
    abstract: 2,
    keyword: 0,
    weight: 5,
    records: 10,
    special: 4.2,
    ...more,
  })
  const show = async (
    role = 'lead',
    words: object[] = [
      word('hive wraps', { weight: 9 }),
      word('winter', { records: 700, special: -1 }),
      word('or', { weight: 2 }),
    ],
  ) =>
    page((await import('@/stages/plan/Words.vue')).default, '/reviews/4/plan/words', {
      'GET /reviews/4/query/words': { words, seeds: words.length ? 2 : 0, others: 900 },
      'GET /reviews/4/query/steps': steps,
      'GET /reviews/4/protocol': protocol(role),
      'GET /reviews/4/figures': figures(),
      'POST /reviews/4/query/read': (said: { text?: string; concepts?: { terms: string[] }[] }) =>
        good(said.text ?? said.concepts![0]!.terms.join(' OR ')),
    })
  const terms = (it: { box: HTMLElement }) => [...it.box.querySelectorAll('.term')].map((cell) => cell.textContent)

  it('are sorted by any column, narrowed by a word, and each count opens its records', async () => {
    const it = await show()
    expect(terms(it)).toEqual(['hive wraps', 'winter', 'or'])
    await it.click('Other records')
    expect(terms(it)[0]).toBe('winter')
    expect(decodeURIComponent(it.box.querySelector('tbody a')!.getAttribute('href')!)).toContain(
      'list=not_seeds&query="winter"',
    )
    await it.router.push('/reviews/4/plan/words?words=wrap')
    await it.settled()
    expect(terms(it)).toEqual(['hive wraps'])
  })

  it('go into a concept by its number, several at once, as the query needs them, and can be taken out again', async () => {
    const it = await show()
    await it.settled()
    await it.press(' ')
    await it.press('ArrowDown')
    await it.press('ArrowDown')
    await it.press(' ')
    expect(it.text()).toContain('2 rows chosen')
    await it.press('1')
    const sent = it.asked('POST /reviews/4/query/read').at(-1) as { concepts: { terms: string[] }[] }
    expect(sent.concepts[0]!.terms).toEqual(['wrap* OR foam', 'to be put: hive wraps', 'to be put: or'])
    const { messages } = await import('@/common/messages')
    expect(messages.value[0]?.text).toBe('2 terms in concept 1.')
    await messages.value[0]?.undo?.()
    expect(it.asked('POST /reviews/4/query/read').at(-1)).toEqual({ text: 'wrap* OR foam' })
  })

  it('say what to do when there is no seed, and offer an observer no concept', async () => {
    expect((await show('lead', [])).text()).toContain('No seeds, no words')
    expect((await show('observer')).text()).not.toContain('Into the query')
  })
})
