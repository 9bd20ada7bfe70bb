// Pooling before a person: a new analysis with what it would come to, a study left out by key, for a look and for good.
import { beforeEach, describe, expect, it } from 'vitest'
import type { Component } from 'vue'
import { page, protocol, figures, Refused, valuesOf } from './page' // before what asks the server
import { messages } from '@/common/messages'
import { figure, percent } from '@/common/format'
import { toggled } from '@/common/some'
import { chance, interval } from '@/stages/pool/words'

beforeEach(() => (messages.value = []))
const loaded = async (view: string): Promise<Component> =>
  ((await import(`../src/stages/pool/${view}.vue`)) as { default: Component }).default
const estimate = (it: number) => ({ estimate: it, low: it - 0.2, high: it + 0.2, se: 0.1, p: 0.02 })
const pooled = (k: number, it: number) => ({
  k, pooled: estimate(it), prediction: [it - 0.5, it + 0.5], q: 3, q_df: k - 1, q_p: 0.3, i2: 12, tau2: 0.01,
}) // prettier-ignore
const row = (study: number, label: string, more: object = {}) => ({
  study, key: String(study), label, columns: ['3 / 10', '5 / 10'], effect: estimate(0.8), weight: 50, why_not: '', cells: [`${study}:2:10::`], out: false, group: '', ...more,
}) // prettier-ignore
const result = (it: number, ...out: number[]) => ({
  studies: [
    row(5, 'Ames 2003', { out: out.includes(5) }),
    row(6, 'Brask 1998', { out: out.includes(6) }),
    row(7, 'Corvane 2011', { effect: null, why_not: 'no value for Foam' }),
  ],
  pooled: pooled(2 - out.length, it),
  groups: [],
  between: null,
  spread: '2 studies',
  others: 0,
})
const analysis = {
  name: 'Alive', measure: 'RR', item: 2, arms: [10], against: [11], outcome: null, time: null, se_item: null, model: 'random', tau2: 'REML', hk: false, weights: 'iv',
  level: 0.95, correction: 0.5, left_out: [], group: null, order: 'name', left: '', right: '', kind: 'pair', split: false, moderators: [], better: 'larger',
  only: null, among: [], beside: [], hidden: [],
} // prettier-ignore
const kept = { id: 1, version: 4, analysis, by: 'Tamsin', at: '2026-11-01T10:00:00Z' }
const closer = {
  k: 2,
  asymmetry: null,
  ways: [{ name: 'Fixed effects', pooled: pooled(2, 0.79) }],
  without: [],
  added: [],
  influence: [
    { name: 'Ames 2003', residual: -2.4, cook: 0.9, hat: 0.4, tau2: 0.01, q: 2, stands_out: true },
    { name: 'Brask 1998', residual: 0.3, cook: 0.1, hat: 0.6, tau2: 0.02, q: 3, stands_out: false },
  ],
  tau2: { best: 0.03, low: 0, high: 0.4, q_low: 0, q_high: 0.7 },
  moderated: {
    names: ['year'], k: 2, coefficients: [], tau2: null, qe: null, qe_df: 0, qe_p: null, qm: null, qm_df: [], qm_p: null, r2: null, lacking: ['Corvane 2011'],
  }, // prettier-ignore
}
const level = (id: number, name: string) => ({ id, factor: 'arm', name, study: null })
const told = {
  'GET /reviews/4/protocol': protocol('reviewer'),
  'GET /reviews/4/figures': figures(),
  'GET /reviews/4/evidence': {
    codebook: {
      items: [
        { id: 1, name: 'Site', kind: 'text', per: [] },
        { id: 2, name: 'Alive', kind: 'counts', per: ['arm'] },
      ],
    },
    levels: [level(10, 'Foam'), level(11, 'Plain')],
    studies: [],
    values: valuesOf(),
    upto: 0,
  },
  'GET /reviews/4/analyses': [{ ...kept, pooled: pooled(2, 0.8), network: null, problem: '' }],
  'GET /reviews/4/analyses/1': { ...kept, result: result(0.8), network: null },
  'GET /reviews/4/analyses/1/versions': [],
  'GET /reviews/4/analyses/1/closer': closer,
  'GET /reviews/4/analyses/1/words': { methods: 'Effects are risk ratios.', results: '2 studies.', sources: ['1. A'] },
}

describe('A new analysis', () => {
  it('begins with what can be pooled, says what it comes to, and is kept', async () => {
    const it = await page(await loaded('Analysis'), '/reviews/4/pool/new', {
      ...told,
      'POST /reviews/4/analyses/preview': { result: result(0.8), network: null },
      'POST /reviews/4/analyses': { id: 9 },
    })
    expect((it.field('Name') as HTMLInputElement).value).toBe('Alive: Foam against Plain')
    expect(it.text()).toContain('0.80 [0.60, 1.00]')
    expect(it.text()).toContain('1 study without the numbers for it')
    await it.click('Keep the analysis')
    const [body] = it.asked('POST /reviews/4/analyses') as (typeof analysis)[]
    expect([body!.measure, body!.item, body!.arms, body!.against]).toEqual(['RR', 2, [10], [11]])
    expect(it.router.currentRoute.value.path).toBe('/reviews/4/pool/9')
  })

  it('is about some studies only, by what they say of an item', async () => {
    const it = await page(await loaded('Analysis'), '/reviews/4/pool/new', {
      ...told,
      'POST /reviews/4/analyses/preview': { result: { ...result(0.8), others: 3 }, network: null },
      'GET /reviews/4/appraisal/form': { form: { judgements: ['sound', 'doubtful'] }, version: 1 },
      'POST /reviews/4/analyses': { id: 9 },
    })
    await it.choose('Only studies by', 'appraisal as a whole')
    ;[...it.box.querySelectorAll('label')].find((one) => one.textContent?.includes('sound'))!.click()
    await it.settled()
    expect(it.text()).toContain('Only studies with appraisal as a whole sound; 3 other studies are not among them.')
    await it.click('Keep the analysis')
    const [body] = it.asked('POST /reviews/4/analyses') as { only: number; among: string[] }[]
    expect([body!.only, body!.among]).toEqual([0, ['sound']])
  })

  it('that cannot be says why, and is not kept', async () => {
    const it = await page(await loaded('Analysis'), '/reviews/4/pool/new', {
      ...told,
      'POST /reviews/4/analyses/preview': new Refused(422, 'Choose at least one arm for each side, none for both.'),
    })
    expect(it.text()).toContain('Choose at least one arm for each side')
    expect(it.button('Keep the analysis')?.disabled).toBe(true)
  })
})

describe('An analysis', () => {
  const open = async (more: object = {}, query = '') =>
    page(await loaded('Analysis'), `/reviews/4/pool/1${query}`, { ...told, ...more })

  it('leaves a study out for a look by Space, and for good when that is said, with a way back', async () => {
    const it = await open({ 'PUT /reviews/4/analyses/1': undefined })
    expect(it.text()).toContain('2 pooled')
    it.answers['GET /reviews/4/analyses/1'] = { ...kept, result: result(0.7, 6), network: null }
    await it.press('ArrowDown')
    await it.press(' ')
    expect(it.router.currentRoute.value.query.without).toEqual(['6'])
    expect(it.text()).toContain('Without 1 study, for a look')
    expect(it.text()).toContain('0.70 [0.50, 0.90]')
    await it.click('Leave out for good')
    const put = () => it.asked('PUT /reviews/4/analyses/1') as { analysis: typeof analysis; seen: number }[]
    expect(put()[0]).toMatchObject({ analysis: { left_out: ['6'] }, seen: 4 })
    await messages.value[0]?.undo?.()
    expect(put()[1]).toMatchObject({ analysis: { left_out: [] } })
  })

  it('tells its versions, and takes one up again as a change that is not kept yet', async () => {
    const version = (version: number, measure: string, changed: string[]) => ({
      version, analysis: { ...analysis, measure }, by: 'Rudd', at: '2026-10-01T10:00:00Z', changed,
    }) // prettier-ignore
    const it = await page(await loaded('Analysis'), '/reviews/4/pool/1', {
      ...told,
      'GET /reviews/4/analyses/1/versions': [version(4, 'RR', ['measure']), version(3, 'OR', [])],
      'POST /reviews/4/analyses/preview': { result: result(0.8), network: null },
    })
    expect(it.text()).toContain('2 versions')
    await it.click('Take it up again')
    await it.settled()
    expect(it.asked('PUT /reviews/4/analyses/1')).toEqual([])
    expect(it.asked('POST /reviews/4/analyses/preview').at(-1)).toMatchObject({ measure: 'OR' })
    expect(it.button('Keep the change')).toBeDefined()
  })

  it('leaves out one comparison of a divided study, and says which of its columns the picture has', async () => {
    const divided = result(0.8)
    divided.studies.push(row(8, 'Delta 2001, Foam', { key: '8:10' }), row(8, 'Delta 2001, Straw', { key: '8:12' }))
    const it = await page(await loaded('Analysis'), '/reviews/4/pool/1', {
      ...told,
      'GET /reviews/4/analyses/1': { ...kept, result: divided, network: null },
      'POST /reviews/4/analyses/preview': { result: divided, network: null },
    })
    for (let k = 0; k < 3; k++) await it.press('ArrowDown')
    await it.press(' ')
    expect(it.router.currentRoute.value.query.without).toEqual(['8:12'])
    await it.router.push('/reviews/4/pool/1?edit=yes')
    await it.settled()
    ;[...it.box.querySelectorAll('label')].find((one) => one.textContent?.includes('weights'))!.click()
    await it.settled()
    it.answers['PUT /reviews/4/analyses/1'] = null
    await it.click('Keep the change')
    expect(it.asked('PUT /reviews/4/analyses/1')[0]).toMatchObject({ analysis: { hidden: ['weight'] } })
  })

  it('is looked at more closely: every model, without each, its words', async () => {
    const it = await open({}, '?view=closer')
    expect(it.text()).toContain('Fixed effects 0.79 [0.59, 0.99]')
    expect(it.text()).toContain('A test of asymmetry needs three studies')
    expect(it.text()).toContain('Effects are risk ratios.')
    expect(it.text()).toContain('▸ Ames 2003 −2.40 0.90')
    expect(it.text()).toContain('by the likelihood ratio 0.0000 to 0.4000, by Q 0.0000 to 0.7000')
    expect(it.text()).toContain('2 studies with figures are too few for 1 moderator')
    expect(it.text()).toContain('Without a figure: Corvane 2011.')
  })

  it('that somebody else changed meanwhile is not overwritten', async () => {
    const late = new Refused(409, 'Odile changed this analysis meanwhile. Look at what it is now.')
    const it = await open(
      { 'POST /reviews/4/analyses/preview': { result: result(0.8), network: null }, 'PUT /reviews/4/analyses/1': late },
      '?edit=yes',
    )
    await it.type('Name', 'Alive in spring')
    await it.click('Keep the change')
    expect(messages.value[0]?.text).toContain('Odile changed this analysis meanwhile')
    expect((it.field('Name') as HTMLInputElement).value).toBe('Alive in spring')
  })
})

describe('Several treatments', () => {
  const comparison = (a: number, b: number, of: number, more: object = {}) => ({
    a, b, network: estimate(of), studies: 2, direct: estimate(of), indirect: null, difference: null, ...more,
  }) // prettier-ignore
  const network = {
    treatments: ['Plain', 'Foam', 'Straw', 'Lone'],
    people: [40, 30, 20, 5],
    parts: [[0, 1, 2], [3]],
    studies: [row(5, 'Ames 2003'), row(6, 'Brask 1998', { why_not: 'has no event' })],
    others: 0,
    used: 1,
    tau2: 0.1,
    league: [
      comparison(0, 1, 0.5),
      comparison(0, 2, 0.8, { direct: null }),
      comparison(1, 2, 2, { indirect: estimate(4), difference: { ...estimate(0.5), p: 0.01 } }),
    ],
    ranking: [{ treatment: 1, score: 0.9, rank: 1, low: 1, high: 2, best: 0.84, against_first: estimate(2) }],
    q: { q: 5, df: 2, p: 0.08 },
    within: { q: 3, df: 1, p: 0.1 },
    between: { q: 2, df: 1, p: 0.2 },
  } // prettier-ignore
  const said = { ...analysis, kind: 'network', measure: 'OR', arms: [11, 10], against: [] }

  it('are told all against all, directly and around, ranked, and what falls apart is said', async () => {
    const it = await page(await loaded('Analysis'), '/reviews/4/pool/1', {
      ...told,
      'GET /reviews/4/analyses/1': { ...kept, analysis: said, result: null, network },
    })
    expect(it.text()).toContain('4 treatments by odds ratio in 1 study')
    expect(it.text()).toContain('falls apart into 2 parts: Plain, Foam, Straw; Lone')
    expect(it.text()).toContain('Foam 2.00 [1.80, 2.20] 0.90 1, 1 to 2 84 %')
    // the row against the column: below by the network, turned round; above it the two alone
    const [plain, foam, straw] = [...it.box.querySelectorAll('.league tbody tr')].map((one) =>
      [...one.querySelectorAll('td')].map((cell) => cell.textContent?.trim()),
    )
    expect(plain).toEqual(['', '0.50 [0.30, 0.70]', '—'])
    expect(foam![0]).toBe('2.00 [1.43, 3.33]')
    expect(straw![0]).toBe('1.25 [1.00, 1.67]')
    expect(it.text()).toContain('Of 1 comparison with both, 1 differs at 5 %')
    it.answers['GET /reviews/4/analyses/1'] = {
      ...kept,
      analysis: said,
      result: null,
      network: { ...network, league: [comparison(0, 1, 0.5)] },
    }
    await it.press(' ')
    expect(it.text()).toContain('No comparison has both.')
    expect(it.text()).toContain('has no event')
    expect(it.button('A closer look')).toBeFalsy()
  })

  it('begin with all arms, the one that stood against leading', async () => {
    const it = await page(await loaded('Analysis'), '/reviews/4/pool/new', {
      ...told,
      'POST /reviews/4/analyses/preview': { result: result(0.8), network: null },
      'POST /reviews/4/analyses': { id: 9 },
    })
    await it.choose('Compares', 'several treatments at once')
    await it.click('Keep the analysis')
    const [body] = it.asked('POST /reviews/4/analyses') as (typeof analysis)[]
    expect([body!.kind, body!.arms, body!.against]).toEqual(['network', [11, 10], []])
    expect(body!.name).toBe('Alive: 2 treatments')
  })
})

describe('The summary table', () => {
  const line = { analysis: 1, baseline: null, doubts: [], certainty: '', note: '' }
  const summed = {
    version: 3,
    by: 'Odile',
    table: { words: ['sure', 'unsure'], domains: ['Exactness'], rows: [line] },
    rows: [
      {
        analysis: 1, name: 'Alive', measure: 'RR', k: 2, people: 40, pooled: estimate(0.8), absolute: { baseline: 500, risk: 400, more: -100, low: -200, high: 0 }, usual: 500,
        led_to: 'sure', problem: '',
      },
    ],
    others: [{ id: 2, name: 'Weight' }],
  } // prettier-ignore
  const open = async (more: object = {}) =>
    page(await loaded('Summary'), '/reviews/4/pool/summary', {
      ...told,
      'GET /reviews/4/summary': summed,
      'PUT /reviews/4/summary': undefined,
      ...more,
    })
  const sent = (it: Awaited<ReturnType<typeof open>>) =>
    it.asked('PUT /reviews/4/summary') as { table: { rows: (typeof line)[] }; seen: number }[]

  it('tells what an effect means for a thousand, and keeps each change with a way back', async () => {
    const it = await open()
    expect(it.text()).toContain('0.80 [0.60, 1.00] 500 → 400 −100 [−200, 0] not judged')
    await it.click('unsure')
    expect(sent(it)[0]).toMatchObject({ seen: 3, table: { rows: [{ certainty: 'unsure' }] } })
    await messages.value[0]?.undo?.()
    expect(sent(it)[1]).toMatchObject({ table: { rows: [{ certainty: '' }] } })
  })

  it('keeps a doubt once it has its reason, and no baseline that cannot be', async () => {
    const it = await open()
    await it.choose('Exactness', 'serious doubt')
    expect(sent(it)).toHaveLength(0)
    await it.type('Why', 'The interval holds both.')
    await it.leave('Why')
    expect(sent(it)[0]!.table.rows[0]!.doubts).toEqual([
      { domain: 'Exactness', doubt: 'serious', why: 'The interval holds both.' },
    ])
    // what a colleague writes meanwhile comes into what nobody has touched, and takes away nothing that was typed
    await it.type('Note', 'Mine')
    const theirs = { ...line, certainty: 'sure', note: 'Theirs' }
    it.answers['GET /reviews/4/summary'] = { ...summed, version: 4, table: { ...summed.table, rows: [theirs] } }
    await it.click('unsure')
    expect((it.field('Note') as HTMLTextAreaElement).value).toBe('Mine')
    const baseline = 'Baseline: how many of 1,000 on the second side'
    await it.type(baseline, '1200')
    await it.leave(baseline)
    expect(messages.value[0]?.text).toContain('above 0 and below 1,000')
    expect(sent(it)).toHaveLength(2)
  })
})

describe('All analyses', () => {
  it('say what each comes to, or why it cannot any more; one is copied, and removed with a way back', async () => {
    const gone = { ...kept, id: 2, analysis: { ...analysis, name: 'Gone' }, pooled: null, network: null, problem: 'This item is no longer in the codebook.' } // prettier-ignore
    const it = await page(await loaded('Analyses'), '/reviews/4/pool', {
      ...told,
      'GET /reviews/4/analyses': [{ ...kept, pooled: pooled(2, 0.8), network: null, problem: '' }, gone],
      'POST /reviews/4/analyses': { id: 3 },
      'PUT /reviews/4/analyses/1/place': undefined,
      'DELETE /reviews/4/analyses/1': undefined,
      'POST /reviews/4/analyses/1/back': undefined,
    })
    expect(it.text()).toContain('0.80 [0.60, 1.00]')
    expect(it.text()).toContain('This item is no longer in the codebook.')
    await it.click('Alive down')
    expect(it.asked('PUT /reviews/4/analyses/1/place')).toEqual([{ place: 1 }])
    await it.click('Copy')
    expect(it.asked('POST /reviews/4/analyses')[0]).toMatchObject({ name: 'Alive (copy)' })
    await it.click('Remove Alive')
    await messages.value[0]?.undo?.()
    expect(it.asked('POST /reviews/4/analyses/1/back')).toHaveLength(1)
  })
})

it('Figures are written with a true minus, shares in per cent, and nothing as a dash', () => {
  expect([figure(-0.5), figure(null), figure(1.23456, 3)]).toEqual(['−0.50', '—', '1.235'])
  expect([percent(0.625), percent(0.625, 1), percent(undefined)]).toEqual(['63 %', '62.5 %', '—'])
  expect([chance(0.0001), chance(0.0421), chance(null)]).toEqual(['< 0.001', '0.042', '—'])
  expect(interval({ estimate: null, low: null, high: null, se: null, p: null })).toBe('—')
  expect([toggled([1, 2], 2), toggled([1], 2)]).toEqual([[1], [1, 2]])
})
