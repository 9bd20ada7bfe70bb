// The protocol, the seeds, another syntax, and a catalogue's counts, in front of somebody.
import { beforeEach, describe, expect, it } from 'vitest'
import { figures, page, protocol, Refused } from './page'

const frame = (role = 'lead', more: Record<string, unknown> = {}) => ({
  'GET /reviews/4/protocol': protocol(role, {
    framework: 'free',
    types: '',
    update_of: '',
    updates_from: null,
    registered_in: '',
    registration_number: '',
    registered_on: null,
    sources: [],
    limits: '',
    version: 3,
    needs_reason: true,
    frameworks: { pico: ['Population', 'Intervention'], free: [] },
    ...more,
  }),
  'GET /reviews/4/figures': figures({ seeds: 1 }),
})
const load = async (view: string) => (await import(`../src/stages/plan/${view}.vue`)).default

beforeEach(() => localStorage.clear())

describe('the protocol', () => {
  it('sends only what changed, with a reason, on the version that was seen', async () => {
    const it = await page(await load('Protocol'), '/reviews/4/plan', {
      ...frame(),
      'PUT /reviews/4/protocol': { version: 4 },
    })
    await it.click('Add a source')
    await it.type('Source 1', 'Agrarica')
    expect(it.button('Save as version 4')!.disabled).toBe(true)
    await it.type('Why it changes; needed', 'One more source')
    it.box.querySelector<HTMLFormElement>('#view-actions form')!.requestSubmit()
    await it.settled()
    expect(it.asked('PUT /reviews/4/protocol')).toEqual([
      { sources: [{ name: 'Agrarica', kind: 'database' }], reason: 'One more source', seen: 3 },
    ])
  })

  it('keeps what was typed when somebody amended it meanwhile, and lets an observer read', async () => {
    const it = await page(await load('Protocol'), '/reviews/4/plan', {
      ...frame('lead', { needs_reason: false }),
      'PUT /reviews/4/protocol': new Refused(409, 'Odile changed the protocol meanwhile.'),
    })
    await it.type('Question', 'Do lids help?')
    it.box.querySelector<HTMLFormElement>('#view-actions form')!.requestSubmit()
    await it.settled()
    expect(it.field('Question').value).toBe('Do lids help?')
    const other = await page(await load('Protocol'), '/reviews/4/plan', frame('observer'))
    expect(other.text()).toContain('Only a lead changes the protocol')
    expect(other.button('Add a source')).toBeUndefined()
  })
})

describe('seeds', () => {
  const answer = (line: string, state: string, more: object = {}) => ({
    line,
    kind: 'title',
    key: line,
    state,
    record: null,
    title: '',
    year: null,
    doi: '',
    seed: false,
    sure: true,
    problem: '',
    ...more,
  })

  it('answer every line before anything is added, and leave twins out', async () => {
    const lines = [
      answer('Wraps', 'here', { record: 7, title: 'Wraps' }),
      answer('Lids of straw', 'here', { record: 8, title: 'Lids of foam', sure: false }),
      answer('10.5555/a', 'nowhere', { kind: 'doi' }),
      answer('No such', 'nowhere'),
      answer('Far', 'catalogue', { title: 'Far away', doi: '10.5555/b' }),
    ]
    const it = await page((await import('@/stages/plan/seeds/SeedsNamed.vue')).default, '/reviews/4/plan/seeds', {
      ...frame(),
      'GET /reviews/4/catalogues': [{ id: 2, name: 'Union', address: 'x', version: '2.0', form: 'dc' }],
      'POST /reviews/4/seeds/look-up': lines,
      'POST /reviews/4/seeds/add': { seeds: 2, brought: 1 },
    })
    await it.type('Studies, one a line', 'Wraps\nLids of straw')
    await it.click('Look them up')
    expect(it.asked('POST /reviews/4/seeds/look-up')).toEqual([{ text: 'Wraps\nLids of straw', catalogue: 2 }])
    expect(it.text()).toContain('much like it, not the same')
    await it.click('Add 3 as seeds')
    expect(it.asked('POST /reviews/4/seeds/add')).toEqual([
      { records: [7], keys: ['10.5555/a'], bring: ['10.5555/b'], catalogue: 2 },
    ])
  })

  it('are filled by what the registry says, field by field, when chosen', async () => {
    const seeds = [
      { id: 7, title: 'Wraps', authors: [], year: null, doi: '10.5555/a', has_abstract: false, has_keywords: true },
      { id: 8, title: 'Lids', authors: [], year: 2001, doi: '', has_abstract: false, has_keywords: true },
    ]
    const it = await page(
      (await import('@/stages/plan/seeds/SeedsFilled.vue')).default,
      '/reviews/4/plan/seeds',
      {
        ...frame(),
        'GET /reviews/4/seeds/7/proposal': { record: 7, fields: { abstract: 'About wraps', year: 2001 }, problem: '' },
        'GET /reviews/4/seeds/8/proposal': { record: 8, fields: {}, problem: 'It has no DOI.' },
        'POST /reviews/4/seeds/fill': { supplements: [5] },
      },
      { seeds },
    )
    await it.settled()
    expect(it.text()).toContain('It has no DOI.')
    it.field('Fill year of Wraps').dispatchEvent(new Event('change'))
    await it.settled()
    await it.click('Fill 1 field')
    expect(it.asked('POST /reviews/4/seeds/fill')).toEqual([[{ record: 7, fields: ['abstract'] }]])
  })
})

describe('another syntax', () => {
  it('is written with what was not carried over, and read with its mistakes', async () => {
    const syntax = {
      key: 'ccl',
      name: 'CCL',
      about: 'ISO 8777',
      text: 'name = "CCL"',
      own: false,
      shipped: true,
      guide: [{ ours: 'wom?n', said: 'wom#n', done: '' }],
    }
    const read = { text: 'wrap', concepts: [], lines: [], notes: [], problem: null }
    const it = await page(await load('Syntaxes'), '/reviews/4/plan/syntaxes', {
      ...frame(),
      'GET /reviews/4/syntaxes': [syntax],
      'GET /reviews/4/query/steps': {
        steps: [
          { id: 1, text: 'wrap', note: '', version: null, at: '2026-03-01T10:00:00Z', by: 'T', hits: 1, seeds: 0 },
        ],
        seeds: 0,
      },
      'POST /reviews/4/query/read': read,
      'POST /reviews/4/syntaxes/ccl/write': {
        text: 'wrap?',
        losses: [{ part: '[Care]', done: 'names of concepts are left out' }],
        checks: [],
      },
      'POST /reviews/4/syntaxes/ccl/read': {
        text: '',
        notes: [],
        problem: {
          message: 'There is no code “xx” in this syntax.',
          begin: 0,
          end: 2,
          expected: 'ti',
          mend: 'write one of these',
          line: null,
          concept: null,
          term: null,
        },
      },
    })
    await it.settled()
    for (const words of ['wrap?', 'names of concepts are left out', 'wom#n']) expect(it.text()).toContain(words)
    await it.type('A query in CCL', 'xx=wrap')
    await it.settled()
    expect(it.text()).toContain('There is no code “xx”')
    expect(it.box.querySelector('.at')?.textContent).toBe('xx')
  })
})
