// Lists of any length, and the criteria, whose order is the desk's keys.
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import { h, ref, type Ref } from 'vue'
import { page, Refused } from './page'

let high: ReturnType<typeof vi.spyOn>
beforeAll(() => void (high = vi.spyOn(HTMLElement.prototype, 'clientHeight', 'get').mockReturnValue(600) as never))
afterAll(() => void high.mockRestore())

describe('a long list', () => {
  const show = async (
    total: number,
    load?: (offset: number, limit: number) => Promise<unknown>,
    version: Ref<unknown> = ref(1),
  ) => {
    const LongList = (await import('@/common/LongList.vue')).default
    const fetched: number[] = []
    const rows =
      load ??
      (async (offset: number, limit: number) => (
        fetched.push(offset),
        {
          total,
          rows: Array.from(
            { length: Math.min(limit, total - offset) },
            (_, k) => `record ${offset + k} of ${String(version.value)}`,
          ),
        }
      ))
    const View = {
      setup: () => () =>
        h(
          LongList as never,
          { load: rows, version: version.value, rowHeight: 30, label: 'Records' } as never,
          { row: ({ row }: { row: string }) => row, empty: () => 'No record fits' } as never,
        ),
    }
    return { it: await page(View, '/', {}), fetched, version }
  }

  it('draws what is in sight of a hundred thousand records, and says their place to a screen reader', async () => {
    const { it, fetched } = await show(100_000)
    const drawn = it.box.querySelectorAll('[role=listitem]')
    expect(drawn.length).toBeGreaterThan(10)
    expect(drawn.length).toBeLessThan(60)
    expect(drawn[0]!.textContent).toBe('record 0 of 1')
    expect(drawn[0]!.getAttribute('aria-setsize')).toBe('100000')
    expect(fetched).toEqual([0])
  })

  it('is asked for again when what it lists has changed', async () => {
    const { it, fetched, version } = await show(5)
    version.value = 2
    await it.settled()
    expect(fetched).toEqual([0, 0])
    expect(it.box.querySelector('[role=listitem]')!.textContent).toBe('record 0 of 2')
  })

  it('says that it is empty, and why it could not be fetched, which is another thing', async () => {
    expect((await show(0)).it.text()).toContain('No record fits')
    const { Refusal } = await import('@/api/client')
    const { it } = await show(0, () => Promise.reject(new Refusal('The words hold an unbalanced quote.', 422)))
    expect(it.text()).toContain('The words hold an unbalanced quote.')
    expect(it.text()).not.toContain('No record fits')
  })

  it('keeps what it shows while the server is away, says so, and asks again by itself', async () => {
    const { Refusal } = await import('@/api/client')
    let away = false
    const version = ref<unknown>('a|1')
    const load = () =>
      away
        ? Promise.reject(new Refusal('The server cannot be reached.', 0))
        : Promise.resolve({ total: 1, rows: [`as of ${String(version.value)}`] })
    const { it } = await show(1, load, version)
    away = true
    version.value = 'a|2'
    await it.settled()
    expect(it.text()).toContain('as of a|1')
    expect(it.text()).toContain('The server cannot be reached. This list is tried again by itself.')
    away = false
    window.dispatchEvent(new Event('online'))
    await it.settled()
    expect(it.text().trim()).toBe('as of a|2')
  })

  it('never shows an old answer that comes late', async () => {
    const version = ref<unknown>('a')
    const waiting: ((it: unknown) => void)[] = []
    const { it } = await show(1, () => new Promise((done) => waiting.push(done)), version)
    version.value = 'b'
    await it.settled()
    waiting[1]!({ total: 1, rows: ['new'] })
    await it.settled()
    waiting[0]!({ total: 1, rows: ['old'] })
    await it.settled()
    expect(it.text()).toContain('new')
    expect(it.text()).not.toContain('old')
  })
})

describe('criteria', () => {
  const open = async (names: string[], may = true) => {
    const CriteriaList = (await import('@/stages/plan/CriteriaList.vue')).default
    const criteria = ref(
      names.map((name, k) => ({ id: k + 1, name, wording: '', first: true, second: true })) as {
        id: number | null
        name: string
      }[],
    )
    const touched = vi.fn()
    const View = {
      setup: () => () => h(CriteriaList as never, { modelValue: criteria.value, may, onTouched: touched } as never),
    }
    return { it: await page(View, '/', {}), criteria, touched, names: () => criteria.value.map((it) => it.name) }
  }

  it('are moved by button, and the focus goes along so that the next press moves the same one', async () => {
    const { it, names, touched } = await open(['Not bees', 'No comparison', 'No winter'])
    await it.click('Move criterion 3 up')
    expect(names()).toEqual(['Not bees', 'No winter', 'No comparison'])
    expect(document.activeElement?.getAttribute('aria-label')).toBe('Move criterion 2 up')
    ;(document.activeElement as HTMLElement).click()
    await it.settled()
    expect(names()).toEqual(['No winter', 'Not bees', 'No comparison'])
    expect(touched).toHaveBeenCalledTimes(2)
    expect(it.button('Move criterion 1 up')!.disabled).toBe(true)
    expect(it.button('Move criterion 3 down')!.disabled).toBe(true)
  })

  it('are added at the end and removed by name', async () => {
    const { it, names } = await open(['Not bees'])
    await it.click('Add a criterion')
    expect(names()).toEqual(['Not bees', ''])
    await it.click('Remove criterion Not bees')
    expect(names()).toEqual([''])
  })

  it('say what they are for when there is none, and can be read only by who may not change them', async () => {
    expect((await open([])).it.text()).toContain('Screening needs at least one')
    const { it } = await open(['Not bees'], false)
    expect(it.button('Remove')).toBeUndefined()
    expect((it.field('Criterion 1') as HTMLInputElement).readOnly).toBe(true)
  })
})

describe('the reviews of a person', () => {
  const review = (id: number, title: string, more: object = {}) => ({
    id,
    title,
    question: 'Do wraps help?',
    role: 'lead',
    archived: false,
    changed_at: null,
    found: 0,
    records: 0,
    open: 0,
    second_open: 0,
    sought: 0,
    included: 0,
    questions: 0,
    ...more,
  })
  const open = async (reviews: unknown) =>
    page((await import('@/stages/reviews/ReviewList.vue')).default, '/', {
      'GET /reviews': reviews,
      'GET /account': { id: 1, name: 'tamsin', full_name: 'Tamsin', theme: 'light' },
      'POST /reviews': { id: 12 },
      'PUT /reviews/5/archived': undefined,
    })

  it('are a way in, or an invitation to begin', async () => {
    const it = await open([review(4, 'Hives')])
    expect(it.box.querySelector('a.name')!.getAttribute('href')).toMatch(/^\/reviews\/4/)
    expect((await open([])).text()).toContain('You are in no review yet')
    expect((await open(new Refused(500, 'The database is away.'))).text()).toContain('The database is away.')
  })

  it('say where each stands and what waits for whom', async () => {
    const it = await open([
      review(4, 'Hives', { open: 37, second_open: 1, questions: 2, found: 500, records: 400 }),
      review(5, 'Mites'),
      review(6, 'Wax', { role: 'observer', open: 9 }),
    ])
    for (const words of [
      '37 for you to screen',
      '1 full text to decide',
      '2 pairs to compare',
      'nothing waits for you',
    ])
      expect(it.text()).toContain(words)
    expect(it.text()).not.toContain('9 for you')
    expect(it.box.querySelector('svg[role=img]')!.getAttribute('aria-label')).toBe(
      '500 found, 400 records, 37 to decide, 0 included',
    )
  })

  it('are searched, archived and brought back', async () => {
    const it = await open([
      review(4, 'Hives'),
      review(5, 'Mites', { archived: true }),
      review(6, 'Wax', { role: 'reviewer' }),
    ])
    const titles = () => [...it.box.querySelectorAll('a.name')].map((a) => a.textContent)
    expect(titles()).toEqual(['Hives', 'Wax'])
    await it.router.push('/?words=hiv')
    await it.settled()
    expect(titles()).toEqual(['Hives'])
    await it.router.push('/?archived=yes')
    await it.settled()
    expect(titles()).toEqual(['Mites'])
    await it.click('Bring back Mites')
    expect(it.asked('PUT /reviews/5/archived')).toEqual([{ archived: false }])
    const { messages } = await import('@/common/messages')
    await messages.value[0]?.undo?.()
    expect(it.asked('PUT /reviews/5/archived').at(-1)).toEqual({ archived: true })
    expect(it.button('Archive Wax')).toBeUndefined() // a lead's to do
  })

  it('begin with a title, and lead straight to the plan', async () => {
    const it = await open([])
    await it.click('New review')
    expect(it.button('Make the review')!.disabled).toBe(true)
    await it.type('Title', 'Wraps and winter')
    it.box.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await it.settled()
    expect(it.asked('POST /reviews')).toEqual([{ title: 'Wraps and winter', question: '' }])
    expect(it.router.currentRoute.value.path).toBe('/reviews/12/plan')
  })

  it('send who is not signed in to the door', async () => {
    const it = await open(new Refused(401, 'Please sign in.'))
    expect(it.router.currentRoute.value.path).toBe('/sign-in')
  })
})
