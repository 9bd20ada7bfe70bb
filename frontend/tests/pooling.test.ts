// Pooling before a person: a new analysis with what it would come to, a study left out by key, for a look and for good.
import { beforeEach, describe, expect, it } from 'vitest'
import type { Component } from 'vue'
import { page, protocol, figures, Refused } from './page' // before what asks the server
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
  study, label, columns: ['3 / 10', '5 / 10'], effect: estimate(0.8), weight: 50, why_not: '', cells: [`${study}:2:10::`], out: false, group: '', ...more,
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
})
const analysis = {
  name: 'Alive', measure: 'RR', item: 2, arms: [10], against: [11], outcome: null, time: null, se_item: null, model: 'random', tau2: 'REML', hk: false, weights: 'iv',
  level: 0.95, correction: 0.5, left_out: [], group: null, order: 'name', left: '', right: '',
} // prettier-ignore
const kept = { id: 1, version: 4, analysis, by: 'Tamsin', at: '2026-11-01T10:00:00Z' }
const closer = {
  k: 2,
  asymmetry: null,
  ways: [{ name: 'Fixed effects', pooled: pooled(2, 0.79) }],
  without: [],
  added: [],
}
const PARTS = ['study', 'item', 'arm', 'outcome', 'time', 'text', 'shown', 'number', 'quoted', 'how', 'unfit', 'read']
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
    values: Object.fromEntries(PARTS.map((it) => [it, []])),
    upto: 0,
  },
  'GET /reviews/4/analyses': [{ ...kept, pooled: pooled(2, 0.8), problem: '' }],
  'GET /reviews/4/analyses/1': { ...kept, result: result(0.8), closer },
  'GET /reviews/4/analyses/1/words': { methods: 'Effects are risk ratios.', results: '2 studies.', sources: ['1. A'] },
}

describe('A new analysis', () => {
  it('begins with what can be pooled, says what it comes to, and is kept', async () => {
    const it = await page(await loaded('Analysis'), '/reviews/4/pool/new', {
      ...told,
      'POST /reviews/4/analyses/preview': result(0.8),
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
    it.answers['GET /reviews/4/analyses/1'] = { ...kept, result: result(0.7, 6), closer }
    await it.press('ArrowDown')
    await it.press(' ')
    expect(it.router.currentRoute.value.query.without).toEqual(['6'])
    expect(it.text()).toContain('Without 1 study, for a look')
    expect(it.text()).toContain('0.70 [0.50, 0.90]')
    await it.click('Leave out for good')
    const put = () => it.asked('PUT /reviews/4/analyses/1') as { analysis: typeof analysis; seen: number }[]
    expect(put()[0]).toMatchObject({ analysis: { left_out: [6] }, seen: 4 })
    await messages.value[0]?.undo?.()
    expect(put()[1]).toMatchObject({ analysis: { left_out: [] } })
  })

  it('is looked at more closely: every model, without each, its words', async () => {
    const it = await open({}, '?view=closer')
    expect(it.text()).toContain('Fixed effects 0.79 [0.59, 0.99]')
    expect(it.text()).toContain('A test of asymmetry needs three studies')
    expect(it.text()).toContain('Effects are risk ratios.')
  })

  it('that somebody else changed meanwhile is not overwritten', async () => {
    const late = new Refused(409, 'Odile changed this analysis meanwhile. Look at what it is now.')
    const it = await open(
      { 'POST /reviews/4/analyses/preview': result(0.8), 'PUT /reviews/4/analyses/1': late },
      '?edit=yes',
    )
    await it.type('Name', 'Alive in spring')
    await it.click('Keep the change')
    expect(messages.value[0]?.text).toContain('Odile changed this analysis meanwhile')
    expect((it.field('Name') as HTMLInputElement).value).toBe('Alive in spring')
  })
})

describe('All analyses', () => {
  it('say what each comes to, or why it cannot any more; one is copied, and removed with a way back', async () => {
    const gone = { ...kept, id: 2, analysis: { ...analysis, name: 'Gone' }, pooled: null, problem: 'This item is no longer in the codebook.' } // prettier-ignore
    const it = await page(await loaded('Analyses'), '/reviews/4/pool', {
      ...told,
      'GET /reviews/4/analyses': [{ ...kept, pooled: pooled(2, 0.8), problem: '' }, gone],
      'POST /reviews/4/analyses': { id: 3 },
      'DELETE /reviews/4/analyses/1': undefined,
      'POST /reviews/4/analyses/1/back': undefined,
    })
    expect(it.text()).toContain('0.80 [0.60, 1.00]')
    expect(it.text()).toContain('This item is no longer in the codebook.')
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
