// Appraisal and two extractors before a person: answers with their support, a judgement by rule or with a reason.
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Component } from 'vue'
import { page, protocol, figures, Refused, valuesOf } from './page' // before what asks the server
import { messages } from '@/common/messages'

beforeEach(() => {
  vi.restoreAllMocks()
  messages.value = []
})
const loaded = async (view: string): Promise<Component> =>
  ((await import(`../src/stages/chart/${view}.vue`)) as { default: Component }).default

const question = (key: string, text: string) => ({ key, text, help: '' })
const form = {
  name: 'Soundness', judgements: ['sound', 'some doubt', 'serious doubt'], apart: ['cannot be judged'], answers: ['yes', 'no'], overall: [], otherwise: '', whole: true,
  appraisers: 1, settling: 'third',
  domains: [
    { key: 'wraps', name: 'How hives came to be wrapped', help: '', questions: [question('lots', 'By lots?'), question('alike', 'Alike?')], rules: [], otherwise: '' },
    { key: 'told', name: 'What is told', help: '', questions: [], rules: [], otherwise: '' },
  ],
} // prettier-ignore
const nothing = { judgement: '', because: '', missing: ['lots', 'alike'] }
const said = (id: number, answers: object, judgement = '', by = 'Tamsin', account = 1) => ({
  id, account, by, at: '2026-11-01T10:00:00Z', answers, judgement, reason: '',
}) // prettier-ignore
const domain = (more: object = {}) => ({
  domain: 'wraps', mine: null, others: [], stands: null, state: '', proposed: nothing, ...more,
}) // prettier-ignore
const table = {
  codebook: { items: [], concepts: [], levels: [] },
  levels: [],
  studies: [{ id: 5, label: 'Ames 2003', reports: [{ record_id: 50, title: 'Hives of Ames', file: null }] }],
  values: valuesOf(),
  upto: 0,
} // prettier-ignore
const appraisal = {
  form,
  version: 1,
  studies: [
    {
      id: 5,
      label: 'Ames 2003',
      domains: { wraps: { state: '', judgement: '' }, told: { state: 'stands', judgement: 'sound' } },
      whole: { judgement: '', because: '', missing: ['wraps'] },
    },
  ],
}
const told = (mine: object = {}) => ({
  'GET /reviews/4/protocol': protocol('reviewer'),
  'GET /reviews/4/figures': figures(),
  'GET /reviews/4/evidence': table,
  'GET /reviews/4/records/50/whole': { fields: { abstract: 'Hives were drawn by lots.' } },
  'GET /reviews/4/appraisal': appraisal,
  'GET /reviews/4/appraisal/studies/5': [domain(mine), domain({ domain: 'told' })],
})
const SAY = 'PUT /reviews/4/appraisal/studies/5'

describe('A domain', () => {
  const open = async (mine: object = {}, more: object = {}) =>
    page(await loaded('Appraisal'), '/reviews/4/chart/appraisal?study=5&domain=wraps', { ...told(mine), ...more })

  it('keeps no answer before it has its support, or the word that there is none', async () => {
    const kept = { lots: { answer: 'yes', support: '', none: true, page: '', record: null } }
    const it = await open({}, { [SAY]: domain({ mine: said(7, kept), state: 'draft' }) })
    expect(it.text()).toContain('The rule waits for 2 answers')
    await it.press('1')
    expect(it.text()).toContain('Mark the words that support it')
    expect(it.asked(SAY)).toEqual([])
    await it.press('0')
    expect(it.asked(SAY)).toEqual([{ domain: 'wraps', answers: kept, judgement: '', reason: '' }])
  })

  it('is judged as the rule proposes by Enter, in the version that was seen', async () => {
    const answers = {
      lots: { answer: 'yes', support: 'by lots', none: false, page: '1', record: 50 },
      alike: { answer: 'no', support: '', none: true, page: '', record: null },
    }
    const proposed = { judgement: 'some doubt', because: 'any no', missing: [] }
    const it = await open(
      { mine: said(7, answers), state: 'draft', proposed },
      { [SAY]: domain({ mine: said(8, answers, 'some doubt'), state: 'stands', proposed }) },
    )
    expect(it.text()).toContain('The team’s rule leads to some doubt: any no')
    await it.press('Enter')
    const [first, second] = it.asked(SAY) as { judgement: string; seen: number }[]
    expect([first!.judgement, first!.seen, second!.judgement, second!.seen]).toEqual(['', 7, 'some doubt', 8])
    expect(messages.value[0]?.text).toBe('How hives came to be wrapped: some doubt.')
  })

  it('wants a reason for another judgement than the rule’s', async () => {
    const answers = { lots: { answer: 'yes', support: 'by lots', none: false, page: '1', record: 50 } }
    const proposed = { judgement: 'some doubt', because: 'any no', missing: [] }
    const it = await open({ mine: said(7, answers), state: 'draft', proposed }, { [SAY]: domain() })
    await it.click('serious doubt')
    expect(it.asked(SAY)).toEqual([])
    expect(messages.value[0]?.text).toContain('Say why it is “serious doubt”, and not “some doubt”')
    await it.type('Why, where it is not', 'All wraps were torn.')
    await it.click('serious doubt')
    expect(it.asked(SAY)).toEqual([
      { domain: 'wraps', answers, judgement: 'serious doubt', reason: 'All wraps were torn.', seen: 7 },
    ])
  })

  it('says what a colleague wrote meanwhile, and loses nothing of one’s own', async () => {
    const refused = new Refused(409, 'Odile wrote here meanwhile: sound. Look at it, and go on from there.')
    const it = await open({}, { [SAY]: refused })
    await it.press('2')
    await it.press('0')
    expect(messages.value[0]?.text).toContain('Odile wrote here meanwhile')
    expect(it.box.querySelector('.choice[aria-pressed=true]')?.textContent).toContain('no')
  })

  it('that two judged differently shows where, and a third settles it', async () => {
    const one = said(7, { lots: { answer: 'yes' } }, 'sound')
    const other = said(8, { lots: { answer: 'no' } }, 'serious doubt', 'Odile', 2)
    const it = await open({ others: [one, other], state: 'differ' }, { 'POST /reviews/4/appraisal/settle': undefined })
    expect(it.text()).toContain('By lots? yes')
    expect(it.text()).toContain('By lots? no')
    await it.click('This stands')
    expect(it.asked('POST /reviews/4/appraisal/settle')).toEqual([
      { study: 5, domain: 'wraps', of: 1, judgement: '', reason: '', seen: [7, 8] },
    ])
  })
})

describe('The studies', () => {
  it('show each judgement as a sign with its words, and open at what is still to judge', async () => {
    const it = await page(await loaded('Appraisal'), '/reviews/4/chart/appraisal', told())
    expect(it.text()).toContain('1 of 2 judgements stand')
    expect(it.button('Ames 2003, What is told: sound, stands')).toBeDefined()
    await it.click('Next to judge')
    expect(it.router.currentRoute.value.query).toMatchObject({ study: '5', domain: 'wraps' })
  })

  it('without a form say what a form is', async () => {
    const it = await page(await loaded('Appraisal'), '/reviews/4/chart/appraisal', {
      ...told(),
      'GET /reviews/4/appraisal': { form: { ...form, domains: [] }, version: 0, studies: [] },
    })
    expect(it.text()).toContain('There is no form yet')
  })
})

describe('The form', () => {
  const FORM = 'PUT /reviews/4/appraisal/form'
  const open = async (role: string, more: object = {}) =>
    page(await loaded('AppraisalForm'), '/reviews/4/chart/appraisal/form', {
      ...told(),
      'GET /reviews/4/protocol': protocol(role),
      'GET /reviews/4/appraisal/form': { form, version: 3 },
      'POST /reviews/4/appraisal/form/preview': { unfit: 0, gone: 0 },
      [FORM]: { form, version: 4 },
      ...more,
    })

  it('is saved from the version that was seen; what it does to judgements is asked first', async () => {
    const it = await open('lead', { 'POST /reviews/4/appraisal/form/preview': { unfit: 2, gone: 1 } })
    await it.type('Question 1', 'Was it by lots?')
    await it.click('Save the form')
    expect(it.text()).toContain('2 judgements are by a word')
    expect(it.asked(FORM)).toEqual([])
    await it.click('Save it so')
    const [body] = it.asked(FORM) as { seen: number; agreed: boolean; form: typeof form }[]
    expect([body!.seen, body!.agreed, body!.form.domains[0]!.questions[0]!.text]).toEqual([3, true, 'Was it by lots?'])
  })

  it('is only read by those who do not lead', async () => {
    const it = await open('reviewer')
    expect(it.button('Save the form')).toBeUndefined()
    expect((it.field('Question 1') as HTMLInputElement).readOnly).toBe(true)
  })
})

describe('Two extractors', () => {
  const mode = {
    second: 'nobody', blind: true, rounding: true, letters: false, settling: 'third', items: null, studies: null,
  } // prettier-ignore
  const open = async (now: object, more: object = {}) =>
    page(await loaded('Extractors'), '/reviews/4/chart/extractors', {
      ...told(),
      'GET /reviews/4/protocol': protocol('lead'),
      'GET /reviews/4/extraction': now,
      'GET /reviews/4/extraction/agreement': [],
      ...more,
    })

  it('are asked for, once it is said what that does to the values that stand', async () => {
    const it = await open(
      { mode, people: { 1: 'Tamsin', 2: 'Odile' }, studies: [] },
      {
        'POST /reviews/4/extraction/preview': (body: unknown) =>
          (body as { first_readings: boolean }).first_readings
            ? { stay: 0, first_readings: 9, enter: 0, differ: 0 }
            : { stay: 9, first_readings: 0, enter: 0, differ: 0 },
        'PUT /reviews/4/extraction/mode': undefined,
      },
    )
    expect(it.text()).toContain('One person charts each value')
    const select = it.box.querySelector('select')!
    select.selectedIndex = 1
    select.dispatchEvent(new Event('change', { bubbles: true }))
    await it.settled()
    expect(it.text()).toContain('9 values that stand stay as they are')
    it.box.querySelector<HTMLInputElement>('.notice input')!.click()
    await it.settled()
    expect(it.text()).toContain('9 values leave the table until a second one has read them')
    await it.click('Read so from now on')
    expect(it.asked('PUT /reviews/4/extraction/mode')).toEqual([
      { mode: { ...mode, second: 'person' }, first_readings: true },
    ])
  })

  it('have their studies, how far each is, and how far they agree', async () => {
    const study = { id: 5, label: 'Ames 2003', given: [1, 2], asked: 3, read: { 1: 3, 2: 1 }, stand: 1, differ: 2 }
    const it = await open(
      { mode: { ...mode, second: 'person' }, people: { 1: 'Tamsin', 2: 'Odile' }, studies: [study] },
      {
        'GET /reviews/4/extraction/agreement': [
          { item: 3, name: 'Colonies', read: 8, same: 5, share: 0.625, low: 0.31, high: 0.86, kappa: null },
        ],
        'POST /reviews/4/extraction/shares': { given: { 5: [2, 1] } },
        'PUT /reviews/4/extraction/given': undefined,
      },
    )
    expect(it.text()).toContain('Odile 1 of 3')
    expect(it.text()).toContain('31 % to 86 %')
    await it.click('Share out')
    await it.click('Share out evenly')
    expect(it.asked('PUT /reviews/4/extraction/given')).toEqual([{ given: { 5: [2, 1] } }])
    await messages.value[0]?.undo?.()
    expect(it.asked('PUT /reviews/4/extraction/given')).toHaveLength(2)
    expect(it.asked('PUT /reviews/4/extraction/given')[1]).toEqual({ given: { 5: [1, 2] } })
  })
})
