// Charting in front of a person: proposals by key, a value worked out, reports told apart, values that fit no more.
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Component } from 'vue'
import { figures, page, protocol, Refused, valuesOf } from './page' // before what asks the server
import { messages } from '@/common/messages'
import { filled, supported } from '@/stages/chart/appraisal'

beforeEach(() => {
  vi.restoreAllMocks()
  for (const side of ['clientHeight', 'offsetHeight', 'clientWidth', 'offsetWidth'] as const)
    vi.spyOn(HTMLElement.prototype, side, 'get').mockReturnValue(600)
  messages.value = []
})
const item = (id: number, name: string, kind: string, more: object = {}) => ({ id, name, kind, per: [], ...more })
const ITEMS = [
  item(1, 'Colonies', 'number', { instructions: 'At the start.' }),
  item(2, 'Alive', 'counts', { per: ['arm'] }),
  item(3, 'Weight', 'mean_sd', { per: ['arm'] }),
]
const LEVELS = ['Foam', 'Plain', 'Both'].map((name, k) => ({ id: 10 + k, study: null, factor: 'arm', name }))
const STUDIES = ['Ames 2003', 'Orsel 1998'].map((label, k) => ({
  id: 5 + k,
  label,
  reports: [{ record_id: 50 + k, title: `Report of ${label}`, file: null, filename: null }],
}))
const table = (...values: Record<string, unknown>[]) => ({
  codebook: { items: ITEMS, concepts: [], levels: [] },
  levels: LEVELS,
  studies: STUDIES,
  values: valuesOf(...values),
  upto: 9,
})
const cell = (proposal: number, study: number, text: string, confidence: number) => ({
  proposal,
  study,
  item: 1,
  text,
  confidence,
  n: 2,
})
const proposal = (id: number, text: string, confidence: number) => ({
  id,
  text,
  quote: `There were ${text} colonies.`,
  page: null,
  confidence,
  record: 50,
  verdict: null,
  answered_at: null,
  answered_by: null,
})
const proposed = (cells: object[], more: object = {}) => ({
  cells,
  reports: [{ record: 50, study: 5, state: 'read', whole: true, pages: 4, problem: '', late: false }],
  accepted: 2,
  changed: 1,
  refused: 0,
  waiting: 0,
  reading: false,
  ...more,
})
const answers = (role = 'reviewer') => ({
  'GET /reviews/4/protocol': protocol(role),
  'GET /reviews/4/figures': figures(),
  'GET /reviews/4/evidence': table(),
  'GET /reviews/4/evidence/view': {},
  'GET /reviews/4/reports-together': [],
  'GET /reviews/4/records/50/whole': { fields: { abstract: 'Before. There were 212 colonies. After.' } },
  'GET /reviews/4/records/51/whole': { fields: { abstract: '' } },
  'GET /reviews/4/proposals': proposed([cell(1, 5, '212', 0.97), cell(3, 6, '64', 0.998)]),
  'GET /reviews/4/proposals/5/1': [proposal(1, '212', 0.97), proposal(2, '21', 0.1)],
  'GET /reviews/4/proposals/6/1': [proposal(3, '64', 0.998)],
})
const loaded = async (view: string): Promise<Component> =>
  ((await import(`../src/stages/chart/${view}.vue`)) as { default: Component }).default

describe('Proposals', () => {
  const open = async (more: object = {}, role?: string) =>
    page(await loaded('Proposals'), '/reviews/4/chart/proposals', { ...answers(role), ...more })

  it('come the surest first, say how sure they are, and never that they are certain', async () => {
    const it = await open()
    expect(it.text()).toContain('2 wait')
    expect(it.text()).toContain('over 99 %')
    expect(it.text()).not.toContain('100 %')
    expect(it.text()).toContain('At the start.')
    expect(it.text()).toContain('2 accepted, 1 corrected, 0 refused')
  })

  it('are accepted by Enter, and the next is there before the answer has travelled', async () => {
    let answer = () => {}
    const it = await open({
      'POST /reviews/4/proposals/accepted': () =>
        new Promise((done) => (answer = () => done({ stroke: 3, taken: 1, refused: [] }))),
    })
    await it.press('Enter')
    expect(it.text()).toContain('1 wait')
    expect(it.box.querySelector('.side p')?.textContent).toBe('Ames 2003')
    answer()
    await it.settled()
    expect(it.asked('POST /reviews/4/proposals/accepted')).toEqual([{ proposals: [3] }])
    expect(messages.value[0]?.text).toBe('Colonies: 64, as proposed.')
    it.answers['DELETE /reviews/4/proposals/answers/3'] = { cells: 1 }
    await it.press('Backspace')
    expect(it.asked('DELETE /reviews/4/proposals/answers/3')).toHaveLength(1)
  })

  it('come back when the server refuses the answer', async () => {
    const it = await open({ 'POST /reviews/4/proposals/refused': new Refused(409, 'Odile was faster.') })
    await it.press('r')
    await it.settled()
    expect(messages.value[0]?.text).toBe('Odile was faster.')
    expect(it.text()).toContain('2 wait')
  })

  it('are corrected, also from the second of several', async () => {
    const it = await open({ 'POST /reviews/4/proposals/accepted': { stroke: 2, taken: 1, refused: [] } })
    await it.press('ArrowDown')
    await it.press('2')
    await it.press('c')
    await it.type('The value as it should be', '213')
    await it.click('Keep this value')
    expect(it.asked('POST /reviews/4/proposals/accepted')).toEqual([{ proposals: [2], text: '213' }])
  })

  it('light their words in the abstract where there is no PDF, and say so', async () => {
    const it = await open()
    await it.press('ArrowDown')
    await it.settled()
    expect(it.text()).toContain('No PDF is attached: this is the abstract only.')
    expect(it.box.querySelector('mark')?.textContent).toBe('There were 212 colonies')
  })

  it('are taken as a column from a bound on', async () => {
    const it = await open({ 'POST /reviews/4/proposals/accepted': { stroke: 1, taken: 2, refused: [] } })
    await it.click('Accept the 2 of at least 95 %')
    expect(it.asked('POST /reviews/4/proposals/accepted')).toEqual([{ proposals: [3, 1] }])
    expect(messages.value[0]?.text).toBe('2 values of Colonies taken as proposed.')
  })

  it('offer an observer nothing to answer', async () => {
    const it = await open({}, 'observer')
    await it.press('Enter')
    expect(it.button('Accept')).toBeUndefined()
    expect(it.asked('POST /reviews/4/proposals/accepted')).toEqual([])
  })

  it('say what to do where there is none, and which reports were read or could not be', async () => {
    const it = await open({
      'GET /reviews/4/proposals': proposed([], {
        reports: [
          { record: 50, study: 5, state: 'failed', whole: true, problem: 'a.pdf: locked with a password', late: false },
          { record: 51, study: 6, state: '', whole: false, problem: '', late: false },
        ],
      }),
      'POST /reviews/4/proposals/reading': { waiting: 1 },
    })
    expect(it.text()).toContain('Nothing is proposed that nobody has answered')
    expect(it.text()).toContain('a.pdf: locked with a password')
    expect(it.text()).toContain('not read yet')
    await it.click('Read 1 report')
    expect(messages.value[0]?.text).toBe('1 report will be read in the background.')
  })
})

describe('A language model', () => {
  const model = (more: object = {}) => ({
    name: 'The hive’s model', host: 'model.example', allowed: false, by: '', at: null, unasked: 2, waiting: 0, asking: false, asked: 0, failed: 0,
    problem: '', proposed: 0, refused: [], accepted: 0, changed: 0, passed_over: 0, ...more,
  }) // prettier-ignore
  const open = async (said: object, role = 'lead', more: object = {}) =>
    page(await loaded('Proposals'), '/reviews/4/chart/proposals?show=reports', {
      ...answers(role),
      'GET /reviews/4/proposals/model': said,
      ...more,
    })

  it('is asked once the lead has let it, and never before', async () => {
    const it = await open(model(), 'lead', {
      'PUT /reviews/4/proposals/model': null,
      'POST /reviews/4/proposals/model/asking': { waiting: 2 },
    })
    expect(it.text()).toContain('is not asked about this review')
    expect(it.button('Ask it about')).toBeUndefined()
    it.answers['GET /reviews/4/proposals/model'] = model({ allowed: true })
    await it.click('Let it be asked about this review')
    expect(it.asked('PUT /reviews/4/proposals/model')).toEqual([{ allowed: true }])
    await it.click('Ask it about 2 reports')
    expect(it.asked('POST /reviews/4/proposals/model/asking')).toEqual([{ again: false }])
    expect(messages.value[0]?.text).toBe('It will be asked about 2 reports in the background.')
  })

  it('tells a reviewer who may let it, and everybody what was refused of its answers', async () => {
    const asked = { asked: 2, proposed: 5, refused: [{ why: 'the quote does not stand in the report', n: 3 }] }
    const it = await open(model(asked), 'reviewer')
    expect(it.text()).toContain('A lead can let it be asked.')
    expect(it.button('Let it be asked')).toBeUndefined()
    expect(it.text()).toContain('3 answers were refused before anybody saw them:')
    expect(it.text()).toContain('3 as the quote does not stand in the report')
  })

  it('is told to be none where the server knows none', async () => {
    const it = await open(model({ name: '' }))
    expect(it.text()).toContain('This server knows none')
    expect(it.button('Let it be asked')).toBeUndefined()
  })

  it('marks what it proposed', async () => {
    const by = { model: 'The hive’s model' }
    const it = await page(await loaded('Proposals'), '/reviews/4/chart/proposals', {
      ...answers('reviewer'),
      'GET /reviews/4/proposals': proposed([{ ...cell(1, 5, '212', 0.5), ...by }]),
      'GET /reviews/4/proposals/5/1': [{ ...proposal(1, '212', 0.5), ...by }],
    })
    expect(it.box.querySelectorAll('.by-model')).toHaveLength(2)
    expect(it.text()).toContain('proposed by The hive’s model, not by the reader')
  })
})

describe('A value in focus', () => {
  const open = async (at: string, more: object = {}) =>
    page(await loaded('EvidenceTable'), `/reviews/4/chart?cell=${at}`, { ...answers(), ...more })

  it('is worked out from other numbers, by a formula that is named', async () => {
    const it = await open('5:3:10::', {
      'GET /reviews/4/evidence/values/5/3': [],
      'POST /reviews/4/evidence/derived/preview': { text: '12 ± 3 (n 36)', by: 'mean: as given; SD: SE × √n' },
      'PUT /reviews/4/evidence/derived': [],
    })
    await new Promise((done) => setTimeout(done, 250))
    await it.settled()
    await it.click('Work it out')
    for (const [label, typed] of [
      ['n', '36'],
      ['Mean', '12'],
      ['SE', '0,5'],
    ])
      await it.type(label!, typed!)
    await new Promise((done) => setTimeout(done, 350))
    await it.settled()
    expect(it.text()).toContain('SE × √n')
    await it.click('Take it into the cell')
    expect(it.asked('PUT /reviews/4/evidence/derived')).toEqual([
      { study: 5, item: 3, arm: 10, source: { way: 'group', givens: { n: 36, mean: 12, se: 0.5 }, arms: [], by: '' } },
    ])
  })

  it('says how it came, what it was worked out from, and what stood there before', async () => {
    const now = {
      text: '8 / 50',
      quote: '',
      page: '',
      how: 'derived',
      unfit: '',
      own: false,
      by: 'Odile',
      at: '2026-11-01T10:00:00Z',
    }
    const derived = { way: 'arms', givens: {}, arms: [10, 11], by: 'events and totals added' }
    const it = await open('5:2:12::', {
      'GET /reviews/4/evidence': table({ study: 5, item: 2, arm: 12, text: '8 / 50', how: 'derived', unfit: '' }),
      'GET /reviews/4/evidence/values/5/2': [
        { ...now, derived },
        { ...now, text: '7 / 50', how: 'typed', derived: null },
      ],
    })
    await new Promise((done) => setTimeout(done, 250))
    await it.settled()
    expect(it.text()).toContain('worked out from other numbers by Odile')
    expect(it.text()).toContain('Worked out from Foam, Plain: events and totals added')
    await it.click('Quote and history')
    expect(it.text()).toContain('7 / 50')
  })
})

describe('What two read', () => {
  const said = (account: number, by: string, text: string) => ({
    account,
    by,
    text,
    quote: `They counted ${text}.`,
    page: '1',
    record: 50,
    at: '2026-11-01T10:00:00Z',
  })
  const differing = {
    study: 5, item: 1, arm: null, outcome: null, time: null, label: 'Ames', state: 'differ',
    said: [said(2, 'Odile', '212'), said(3, 'Rudd', '221')], why: ['212 and 221'], stands: null,
  } // prettier-ignore
  const mode = {
    second: 'person',
    blind: true,
    rounding: true,
    letters: false,
    settling: 'third',
    items: null,
    studies: null,
  }
  const open = async (me: number, more: object = {}) =>
    page(await loaded('ReadDifferently'), '/reviews/4/chart/differences', {
      ...answers(),
      'GET /reviews/4/extraction': { mode, people: {}, studies: [] },
      'GET /reviews/4/extraction/compared': [differing],
      'GET /account': { id: me },
      'POST /reviews/4/extraction/settle': undefined,
      'POST /reviews/4/extraction/reopen': undefined,
      ...more,
    })

  it('is settled by key, with what both had read, and taken back', async () => {
    const it = await open(7)
    expect(it.text()).toContain('To be settled 1')
    await it.press('2')
    const body = { study: 5, item: 1, of: 3, text: '', seen: ['212', '221'] }
    expect(it.asked('POST /reviews/4/extraction/settle')).toEqual([body])
    await it.press('Backspace')
    expect(it.asked('POST /reviews/4/extraction/reopen')).toEqual([{ study: 5, item: 1 }])
  })

  it('is not settled by whoever read it', async () => {
    const it = await open(2)
    expect(it.text()).toContain('a third person settles it')
    await it.press('1')
    expect(it.asked('POST /reviews/4/extraction/settle')).toEqual([])
  })
})

describe('The sign of a judgement', () => {
  it('is the fuller the better, and another one where there is no order', () => {
    const form = { judgements: ['sound', 'some doubt', 'serious doubt'], apart: ['cannot be judged'] } as never
    const full = ['sound', 'some doubt', 'serious doubt', 'cannot be judged', 'gone'].map((it) => filled(form, it))
    expect(full).toEqual([1, 0.5, 0, null, undefined])
  })
  it('an answer is kept with its support, or with the word that there is none', () => {
    expect(supported({ answer: 'yes', support: ' ', none: false, page: '' })).toBe(false)
    expect(supported({ answer: 'yes', support: '', none: true, page: '' })).toBe(true)
    expect(supported({ answer: 'yes', support: 'by lots', none: false, page: '' })).toBe(true)
  })
})

describe('Beside the table', () => {
  it('reports that may be one study are joined, or told apart for good', async () => {
    const side = (k: number) => ({
      record: 50 + k,
      study: 5 + k,
      label: STUDIES[k]!.label,
      title: `T${k}`,
      authors: [],
      year: 2003,
    })
    const pair = { left: side(0), right: side(1), why: ['both count 212'], both_charted: true }
    const it = await page(await loaded('EvidenceTable'), '/reviews/4/chart?show=together', {
      ...answers(),
      'GET /reviews/4/reports-together': [pair],
      'PUT /reviews/4/records/51/study': undefined,
      'PUT /reviews/4/reports-together/apart': undefined,
    })
    expect(it.text()).toContain('both count 212')
    expect(it.text()).toContain('counted twice')
    await it.click('One study')
    expect(it.asked('PUT /reviews/4/records/51/study')).toEqual([{ study: 5 }])
    await it.click('Two studies')
    expect(it.asked('PUT /reviews/4/reports-together/apart')).toEqual([{ left: 50, right: 51 }])
  })

  it('values that fit no more are moved to where they fit, or cleared', async () => {
    const it = await page(await loaded('EvidenceTable'), '/reviews/4/chart?show=unfit', {
      ...answers(),
      'GET /reviews/4/evidence': table(
        { study: 5, item: 2, text: '8 / 50', how: 'carried', unfit: 'it is asked for each arm now' },
        { study: 5, item: 2, arm: 10, text: '1 / 2', how: 'typed', unfit: '' },
      ),
      'PUT /reviews/4/evidence/values': [],
    })
    expect(it.text()).toContain('1 value does not fit the codebook any more')
    expect(it.button('Move to Alive, Foam')).toBeUndefined()
    await it.click('Move to Alive, Plain')
    expect(it.asked('PUT /reviews/4/evidence/values')).toEqual([
      [
        { study: 5, item: 2, arm: 11, text: '8 / 50', how: 'typed' },
        { study: 5, item: 2, text: '', quote: '', page: '', how: 'typed' },
      ],
    ])
  })
})

describe('A question', () => {
  const answer = (text: string, score: number, record = 50) => ({
    study: record - 45,
    label: record === 50 ? 'Ames 2003' : 'Orsel 1998',
    record,
    text,
    page: null,
    heading: 'Results',
    score,
    whole: false,
  })
  it('is answered by report with places and scores, and says what was not read', async () => {
    const it = await page(await loaded('Ask'), '/reviews/4/chart/ask?q=How many', {
      ...answers(),
      'GET /reviews/4/asking/kept': [{ id: 1, text: 'Were they fed?', at: '2026-11-01T10:00:00Z', by: 'Odile' }],
      'POST /reviews/4/asking': {
        answers: [answer('There were 212 colonies.', 0.8), answer('There were 64.', 0.5, 51), answer('After.', 0.4)],
        reports: 2,
        abstracts: 2,
        unread: 1,
      },
      'POST /reviews/4/asking/kept': { id: 2 },
    })
    expect(it.text()).toContain('3 passages of 2 reports; of 2 reports only the abstract was read')
    expect([...it.box.querySelectorAll('article h3')].map((one) => one.textContent)).toEqual([
      'Ames 2003',
      'Orsel 1998',
    ])
    expect(it.text()).toContain('80 of 100')
    await it.click('As one text')
    expect(it.text()).toContain('“There were 64.” (Orsel 1998, abstract)')
    await it.click('Keep this question')
    expect(it.asked('POST /reviews/4/asking/kept')).toEqual([{ text: 'How many' }])
    await it.click('Were they fed?')
    expect(it.asked('POST /reviews/4/asking').at(-1)).toEqual({ question: 'Were they fed?' })
  })
})
