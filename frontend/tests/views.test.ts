// Views, as somebody in front of them meets them.
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { figures, page, protocol, record, Refused } from './page'

const loaded = async (path: string) => (await import(/* @vite-ignore */ `../src/${path}.vue`)).default
const messages = async () => (await import('@/common/messages')).messages

beforeEach(() => vi.restoreAllMocks())

describe('reading a file', () => {
  const look = {
    id: 9,
    filename: 'one.ris',
    number: 2,
    source: 'Agrarica',
    run_on: '2026-03-01',
    state: 'read',
    format: 'ris',
    encoding: 'Windows-1252',
    sure: false,
    records: 4,
    with_others: 4,
    announced: 5,
    filled: { title: 4, abstract: 1 },
    failure: '',
    problems: [{ line: 12, message: '“spring” is not a year; kept as given' }],
    header: [],
    certainty: 'sure',
    run: 1,
    how: { format: '', encoding: '', fields: {}, recipe: '', sheet: '', header: null, apart: false },
    habit: false,
    fields: { TI: 'title', T2: 'journal' },
    recipe: '',
    sheets: [],
    sheet: '',
    suspicions: [
      { kind: 'dots', message: 'the title is cut off with dots', records: 1, places: [{ position: 3, line: 20 }] },
    ],
    odd: [
      { position: 3, line: 20, lacks: ['year'] },
      { position: 4, line: 31, lacks: ['abstract'] },
    ],
  }
  const entry = (position: number) => ({
    position,
    line: position * 10,
    end_line: position * 10 + 8,
    raw: '',
    problems: [],
    lines: [
      { number: position * 10, text: 'TI  - Wraps', field: 'Title', value: `Title ${position}`, odd: '', label: 'TI' },
    ],
  })
  const told = (more: object = {}, role = 'reviewer') => ({
    'GET /reviews/4/files/9': { ...look, ...more },
    'GET /reviews/4/protocol': protocol(role),
    'GET /reviews/4/figures': figures(),
    ...Object.fromEntries([1, 2, 3, 4].map((k) => [`GET /reviews/4/files/9/entries/${k}`, entry(k)])),
    'POST /reviews/4/files/9/take-in': undefined,
    'POST /reviews/4/files/9/set-aside': undefined,
    'POST /reviews/4/files/9/read': { id: 9 },
  })
  const open = async (more: object = {}, role?: string) =>
    page(await loaded('stages/gather/Reading'), '/reviews/4/gather/files/9', told(more, role))

  it('says what was read, how sure that is, and what is missing against the announced count', async () => {
    const it = await open()
    for (const words of [
      'one.ris',
      'RIS',
      'Windows-1252, probably',
      '1 fewer came',
      'not a year',
      'line 12',
      '1 record without year',
      'Title 1',
    ])
      expect(it.text()).toContain(words)
  })

  it('moves by the arrow keys within the file, and by L to what is odd', async () => {
    const it = await open()
    await it.press('ArrowUp')
    expect(it.text()).toContain('Record 1 of 4')
    await it.press('ArrowDown')
    expect(it.text()).toContain('Record 2 of 4')
    await it.press('l')
    expect(it.router.currentRoute.value.query.record).toBe('3')
    await it.press('l') // an abstract that is missing is no reason to stop
    expect(it.router.currentRoute.value.query.record).toBe('3')
    for (let k = 0; k < 5; k++) await it.press('ArrowDown')
    expect(it.text()).toContain('Record 4 of 4')
  })

  it('is taken in by one click, and the message offers to undo it', async () => {
    const it = await open()
    await it.click('Take in 4 records')
    expect(it.asked('POST /reviews/4/files/9/take-in')).toHaveLength(1)
    await (await messages()).value[0]?.undo?.()
    expect(it.asked('POST /reviews/4/files/9/set-aside')).toHaveLength(1)
  })

  it('gives a tag another field, says that it will be remembered, and offers to read it as before', async () => {
    const it = await open()
    const pick = document.querySelector<HTMLSelectElement>("select[aria-label='Field of TI']")!
    expect(pick.selectedOptions[0]?.text).toBe('Title')
    pick.value = 'journal'
    pick.dispatchEvent(new Event('change'))
    await vi.waitFor(() => expect(it.asked('POST /reviews/4/files/9/read')).toHaveLength(1))
    await vi.waitFor(async () => expect((await messages()).value[0]?.text).toContain('“TI” is read as Journal now'))
    expect(it.text()).toContain('the title is cut off with dots')
  })

  it('offers an observer nothing to change', async () => {
    const it = await open({}, 'observer')
    expect(it.text()).toContain('one.ris')
    expect(it.button('Take in')).toBeUndefined()
    expect(it.button('Set aside')).toBeUndefined()
  })

  it('says why a file cannot be read and what to do, and still lets it be set aside', async () => {
    const it = await open({
      state: 'failed',
      records: 0,
      failure: 'This is a picture, not a file of records.',
      problems: [],
      odd: [],
    })
    expect(it.text()).toContain('Nothing could be read')
    expect(it.text()).toContain('This is a picture')
    await it.click('Set aside')
    expect(it.asked('POST /reviews/4/files/9/set-aside')).toHaveLength(1)
  })

  it('shows the server’s sentence when the file is not there, with a way to try again', async () => {
    const it = await page(await loaded('stages/gather/Reading'), '/reviews/4/gather/files/9', {
      ...told(),
      'GET /reviews/4/files/9': new Refused(404, 'There is no such file in this review.'),
    })
    expect(it.text()).toContain('There is no such file in this review.')
    it.answers['GET /reviews/4/files/9'] = look
    await it.click('Try again')
    expect(it.text()).toContain('one.ris')
  })
})

describe('verdicts at the desk', () => {
  const sheet = (id: number, notes: object[] = []) => ({
    id,
    record: record(),
    notes,
    state: 'open',
    seed: false,
    marks: {},
    terms: [],
    closeness: 0.5,
    copies: 1,
    sources: [],
  })
  const open = async (props: object) =>
    page(
      await loaded('stages/screen/VerdictPanel'),
      '/reviews/4/screen',
      {
        'GET /account': { id: 1, full_name: 'Tamsin' },
        'PUT /reviews/4/records/7/note': undefined,
        'GET /reviews/4/notes-to-me': [{ id: 5, record: 9, done: false }, { id: 4, record: 8, done: true }], // prettier-ignore
        'GET /reviews/4/members': [
          { id: 1, name: 'tamsin', full_name: 'Tamsin', removed_at: null },
          { id: 2, name: 'rudd', full_name: 'Rudd Brask', removed_at: null },
          { id: 3, name: 'ruth', full_name: 'Ruth', removed_at: '2026-01-01T00:00:00Z' },
        ],
      },
      {
        sheet: sheet(7),
        criteria: [{ id: 3, name: 'Not bees', wording: '', first: true, second: true, number: 1 }],
        recent: [],
        mayWrite: true,
        review: 4,
        pass: 1,
        ...props,
      },
    )

  it('offers each criterion as a reason with its key', async () => {
    const said: unknown[] = []
    const it = await open({ onDecide: (it: unknown) => said.push(it) })
    await it.click('1 Not bees')
    await it.click('Include')
    expect(said).toEqual([{ verdict: 'exclude', criterion: 3 }, { verdict: 'include' }])
  })

  it('writes a note down when it is left, once, and never without a change', async () => {
    const it = await open({})
    const note = it.box.querySelector('textarea')!
    note.dispatchEvent(new Event('blur'))
    await it.type('Note', 'Count the survivors')
    await it.press('Enter', note)
    note.dispatchEvent(new Event('blur'))
    await it.settled()
    expect(it.asked('PUT /reviews/4/records/7/note')).toEqual([{ text: 'Count the survivors' }])
  })

  it('calls a colleague by their name, and says how many notes call oneself', async () => {
    const it = await open({})
    expect(it.text()).toContain('1 note to you')
    await it.type('Note', 'Yours, @ru')
    await it.settled()
    expect([...it.box.querySelectorAll('.calls button')].map((one) => one.textContent?.trim())).toEqual([
      '@rudd Rudd Brask',
    ])
    await it.press('Tab', it.box.querySelector('textarea')!)
    await it.settled()
    expect(it.field('Note').value).toBe('Yours, @rudd ')
    expect(it.box.querySelector('.calls')).toBeNull()
  })

  it('shows the notes of others beside one’s own', async () => {
    const it = await open({
      sheet: sheet(7, [
        { account_id: 1, by: 'Tamsin', text: 'mine' },
        { account_id: 2, by: 'Rudd', text: 'Same colony as 12?' },
      ]),
    })
    expect(it.field('Note').value).toBe('mine')
    expect(it.text()).toContain('Rudd: Same colony as 12?')
  })

  it('says where criteria are written when there is none, and lets observers look only', async () => {
    expect((await open({ criteria: [] })).text()).toContain('This pass has no criterion')
    const it = await open({ mayWrite: false })
    expect(it.text()).toContain('Observers look')
    expect(it.button('Include')).toBeUndefined()
  })
})

describe('the codebook', () => {
  const item = (id: number, name: string, kind = 'text', more: object = {}) => ({
    id,
    name,
    kind,
    unit: '',
    choices: [],
    instructions: '',
    examples: '',
    per: [],
    concept: '',
    ...more,
  })
  const book = (...items: object[]) => ({ items, concepts: [], levels: [], used: { 1: 3 }, version: 2 })
  const open = async () =>
    page(await loaded('stages/chart/Codebook'), '/reviews/4/chart/codebook', {
      'GET /reviews/4/codebook': book(
        item(1, 'Wrap', 'choice', { choices: ['foam', 'straw'], concept: 'Cover' }),
        item(2, 'Place'),
        item(3, 'Year', 'date'),
      ),
      'GET /reviews': [{ id: 4, title: 'Hives' }],
      'GET /reviews/4/protocol': protocol('lead'),
      'GET /reviews/4/figures': figures(),
      'PUT /reviews/4/codebook': undefined,
    })
  interface Saved {
    items: { name: string; choices: string[]; low: number | null }[]
    seen: { items: { name: string }[] }
    agreed: boolean
  }

  it('is saved as it stands on the screen: order, and choices one by one', async () => {
    const it = await open()
    expect(it.button('Save the codebook')!.disabled).toBe(true)
    await it.type('Choices', 'foam\n straw \n\nnone')
    await it.click('Year')
    await it.click('Move up')
    expect(it.text()).toContain('Not saved yet')
    await it.click('Save the codebook')
    const [saved] = it.asked('PUT /reviews/4/codebook') as Saved[]
    expect(saved!.seen.items.map((it) => it.name)).toEqual(['Wrap', 'Place', 'Year'])
    expect(saved!.items.map((it) => [it.name, it.choices])).toEqual([
      ['Wrap', ['foam', 'straw', 'none']],
      ['Year', []],
      ['Place', []],
    ])
  })

  it('shows what becomes of values before a change that touches them is saved', async () => {
    const it = await open()
    it.answers['PUT /reviews/4/codebook'] = (said: Saved) =>
      said.agreed ? undefined : new Refused(409, 'This change touches values.', { look: true })
    it.answers['POST /reviews/4/codebook/preview'] = {
      changes: ['Wrap: is text, was one of some choices'],
      consequences: [
        {
          name: 'Wrap',
          kept: 2,
          reworded: 0,
          hidden: 0,
          unfit: [{ study: 1, label: 'Orsel 1998', text: 'foam', why: 'so it is' }],
        },
      ],
    }
    await it.type('Item', 'Cover')
    await it.click('Save the codebook')
    expect(document.body.textContent).toContain('1 value does not fit')
    expect(document.body.textContent).toContain('Orsel 1998')
    await it.click('Save, and mark what does not fit')
    expect((it.asked('PUT /reviews/4/codebook') as Saved[]).map((one) => one.agreed)).toEqual([false, true])
  })

  it('asks which is to stand when somebody else changed the same item, and writes the chosen one on top of what stands now', async () => {
    const it = await open()
    const { late } = await import('@/common/late')
    const now = book(item(1, 'Wrap or lid', 'text'), item(2, 'Place'), item(3, 'Sites'))
    it.answers['PUT /reviews/4/codebook'] = new Refused(409, 'Odile changed the codebook meanwhile.', {
      both: [{ what: 'Wrap', theirs: 'Wrap or lid', yours: 'Cover' }],
      now,
      mine: book(item(1, 'Cover', 'text'), item(2, 'Place'), item(3, 'Sites')),
    })
    await it.type('Item', 'Cover')
    await it.click('Save the codebook')
    expect(late.asked?.both).toEqual([{ what: 'Wrap', theirs: 'Wrap or lid', yours: 'Cover' }])
    it.answers['PUT /reviews/4/codebook'] = undefined
    await late.asked!.mine()
    const saved = it.asked('PUT /reviews/4/codebook').at(-1) as Saved
    expect(saved.items.map((one) => one.name)).toEqual(['Cover', 'Place', 'Sites'])
    expect(saved.seen.items.map((one) => one.name)).toEqual(['Wrap or lid', 'Place', 'Sites'])
    late.asked = null
  })

  it('keeps what was typed when the server refuses it, and tells a range that is none', async () => {
    const it = await open()
    it.answers['PUT /reviews/4/codebook'] = new Refused(422, 'Two items have the same name.')
    await it.click('Place')
    await it.type('Item', 'Wrap')
    await it.click('Save the codebook')
    expect((await messages()).value[0]?.text).toBe('Two items have the same name.')
    expect(it.field('Item').value).toBe('Wrap')
    expect(it.text()).toContain('Not saved yet')
  })
})

describe('narrowing', () => {
  const one = (id: number, more: object) => ({
    id,
    name: `Narrowing ${id}`,
    query: '',
    abstract: '',
    keep: false,
    spare: false,
    again: false,
    by_hand: false,
    has_rule: false,
    by: 'Tamsin Lorn',
    at: '2026-03-01T10:00:00Z',
    withdrawn_at: null,
    records: 3,
    released: 0,
    ...more,
  })

  it('offers to repeat a rule alone, and says what else was set aside', async () => {
    const it = await page(await loaded('stages/gather/Narrowing'), '/reviews/4/gather/narrowing', {
      'GET /reviews/4/narrowings': [
        one(1, { query: 'year:<1990', has_rule: true }),
        one(2, { by_hand: true }),
        one(3, { name: 'Not screened: stopped after 40 records' }),
      ],
      'GET /reviews/4/records/divided': { languages: [], kinds: [] },
      'GET /reviews/4/protocol': protocol('lead'),
      'GET /reviews/4/figures': figures(),
    })
    const rows = [...it.box.querySelectorAll('tbody tr')].map((row) => ({
      text: row.textContent ?? '',
      repeats: !!row.querySelector('input[type=checkbox]'),
    }))
    expect(rows.map((row) => row.repeats)).toEqual([true, false, false])
    expect(rows[0]!.text).toContain('seeds and included ones too')
    expect(rows[1]!.text).toContain('what was picked by hand')
    expect(rows[2]!.text).toContain('what was undecided then')
    expect(rows[2]!.text).not.toContain('seeds and included ones too')
  })
})

describe('the flow ribbon', () => {
  const open = async (more: Record<string, unknown>) =>
    page(await loaded('frame/FlowRibbon'), '/reviews/4/plan', {
      'GET /reviews/4/figures': figures(more),
      'GET /reviews/4/protocol': protocol('lead'),
    })
  const links = (it: { box: HTMLElement }) =>
    Object.fromEntries(
      [...it.box.querySelectorAll('a')].map((a) => [
        (a.textContent ?? '').replace(/\s+/g, ' ').trim(),
        a.getAttribute('href'),
      ]),
    )

  it('says where each stage stands, and every loss opens its list', async () => {
    const it = await open({
      seeds: 2,
      found: 500,
      copies: 100,
      records: 400,
      questions: 3,
      open: 40,
      excluded: 330,
      sought: 30,
      missing: 4,
      reports_excluded: 6,
      included: 20,
      studies: 18,
      charted: 5,
    })
    for (const words of ['2 seeds', '500 in', '3 pairs open', '40 to go', '5 of 18', 'flow adds up'])
      expect(it.text()).toContain(words)
    expect(links(it)['100 copies']).toBe('/reviews/4/records?list=copies')
    expect(links(it)['330 excluded']).toBe('/reviews/4/records?list=excluded')
    expect(links(it)['4 no full text']).toBe('/reviews/4/records?list=missing')
    expect(links(it)['6 excluded']).toBe('/reviews/4/records?list=reports_excluded')
  })

  it('cannot be overlooked when a sum does not hold', async () => {
    expect((await open({ found: 5, adds_up: false })).text()).toContain('does not add up')
  })

  it('is quiet in a review that has nothing yet', async () => {
    const it = await open({})
    expect(it.text()).toContain('0 seeds')
    expect(it.text()).not.toMatch(/copies|excluded|NaN/)
  })
})

describe('signing in', () => {
  const open = async (address = '/sign-in') =>
    page(await loaded('frame/SignIn'), address, {
      'POST /account/sign-in': new Refused(401, 'This name and this password do not go together.'),
    })

  it('says why it is refused, and keeps what was typed', async () => {
    const it = await open()
    await it.type('Account name', 'tamsin')
    await it.type('Password', 'wrong')
    it.box.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await it.settled()
    expect(it.box.querySelector('p[role=alert]')!.textContent).toBe('This name and this password do not go together.')
    expect(it.field('Account name').value).toBe('tamsin')
    expect(it.asked('POST /account/sign-in')).toEqual([{ name: 'tamsin', password: 'wrong' }])
  })

  it.each([
    ['/reviews/4/plan', '/reviews/4/plan'],
    ['//elsewhere.example/x', '/'],
    ['https://elsewhere.example', '/'],
  ])('goes on to %s only within the program', async (next, to) => {
    const it = await open(`/sign-in?next=${encodeURIComponent(next)}`)
    it.answers['POST /account/sign-in'] = { id: 1 }
    it.box.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await it.settled()
    expect(it.router.currentRoute.value.fullPath).toBe(to)
  })
})

describe('work in progress', () => {
  const job = (id: number, more: object) => ({
    id,
    kind: 'match_copies',
    label: 'Looking for copies',
    state: 'working',
    share: 0.254,
    message: '',
    subject_id: null,
    seconds_left: 95,
    ...more,
  })
  const open = async (jobs: object[], connected = true) =>
    page(
      await loaded('frame/WorkInProgress'),
      '/reviews/4/plan',
      {
        'GET /reviews/4/jobs': jobs,
        'GET /reviews/4/people': [{ id: 2, full_name: 'Rudd Ames', role: 'reviewer', here: true }],
        'GET /reviews/4/protocol': protocol('reviewer'),
        'GET /reviews/4/figures': figures(),
        'POST /reviews/4/jobs/3/cancel': undefined,
      },
      { connected },
    )

  it('shows how far it is and how long it may take, and can be cancelled', async () => {
    const it = await open([job(3, {}), job(4, { state: 'waiting', seconds_left: null })])
    expect(it.text()).toContain('Looking for copies · 25 % · 2 min · 1 more')
    expect(it.text()).toContain('Rudd Ames, here now')
    await it.click('Looking for copies')
    await it.click('Cancel')
    expect(it.asked('POST /reviews/4/jobs/3/cancel')).toHaveLength(1)
  })

  it('tells a failure, a broken connection, and that all is done', async () => {
    expect((await open([job(3, { state: 'failed', message: 'The file is gone.' })])).text()).toContain(
      'Looking for copies failed',
    )
    expect((await open([], false)).text()).toContain('Connecting again')
    expect((await open([])).text()).toContain('Nothing runs')
  })
})

describe('a view whose part of the program is no more', () => {
  it('is opened anew where the server is there, and leaves what is on the screen where it is not', async () => {
    const { openAnew } = await import('@/router')
    const assign = vi.spyOn(window.location, 'assign').mockImplementation(() => undefined)
    const it = await page({ render: () => null }, '/', { 'GET /health': new Refused(503, 'The database is away.') })
    await openAnew('/reviews/1/pool')
    expect(assign).not.toHaveBeenCalled()
    expect((await messages()).value[0]!.text).toBe('The database is away.')
    it.answers['GET /health'] = { ok: true }
    await openAnew('/reviews/1/pool')
    expect(assign).toHaveBeenCalledWith('/reviews/1/pool')
    assign.mockRestore()
  })
})
