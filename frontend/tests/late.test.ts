// Two people edited the same thing: the later one sees both, and chooses.
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { figures, page, protocol, Refused, valuesOf } from './page' // before what asks the server
import { late } from '@/common/late'

beforeEach(() => {
  vi.restoreAllMocks()
  for (const side of ['clientHeight', 'offsetHeight', 'clientWidth', 'offsetWidth'] as const)
    vi.spyOn(HTMLElement.prototype, side, 'get').mockReturnValue(600) // rows are drawn where there is room for them
  late.asked = null
})
const told = (more: object) => ({
  'GET /reviews/4/protocol': protocol('reviewer'),
  'GET /reviews/4/figures': figures(),
  ...more,
})

describe('what somebody else changed meanwhile', () => {
  it('is shown beside one’s own words, and what is chosen is done', async () => {
    const it = await page((await import('@/common/LateDialog.vue')).default, '/reviews/4/chart', {})
    const { choose } = await import('@/common/late')
    const [mine, theirs] = [vi.fn(), vi.fn()]
    const both = [{ what: 'Notes', theirs: 'Two parts', yours: 'One part' }]
    choose('Odile changed search 1 meanwhile.', both, mine, theirs)
    await it.settled()
    expect(it.text()).toContain('Odile changed search 1 meanwhile.')
    expect(it.text()).toMatch(/Notes\s*Two parts\s*One part/)
    await it.click('Write mine')
    expect(mine).toHaveBeenCalledOnce()
    expect(late.asked).toBeNull()
    choose('Again.', both, mine, theirs)
    await it.settled()
    await it.click('Let theirs stand')
    expect(theirs).toHaveBeenCalledOnce()
    expect(mine).toHaveBeenCalledOnce()
    choose('Again.', both, mine, theirs)
    await it.settled()
    await it.click('Look again first')
    expect(late.asked).toBeNull()
    expect([mine, theirs].map((one) => one.mock.calls.length)).toEqual([1, 1])
  })

  it('in a recipe is asked about once, with what stands now', async () => {
    const recipe = {
      name: 'Shelf',
      about: '',
      version: 2,
      shape: 'sign',
      text: 'as it was',
      shipped: false,
      versions: [],
    }
    let stands = 'what Odile made'
    const it = await page(
      (await import('@/stages/gather/Recipes.vue')).default,
      '/reviews/4/gather/recipes',
      told({
        'GET /reviews/4/recipes': [recipe],
        'POST /reviews/4/recipes': (said: { text: string; seen: string }) => {
          const both = [{ what: 'Version 3', theirs: stands, yours: said.text }]
          if (said.seen !== stands) return new Refused(409, 'Odile was faster.', { both, now: stands, mine: said.text })
          stands = said.text
          return { name: 'Shelf', version: 4, text: said.text }
        },
      }),
    )
    await it.click('Edit')
    await it.type('The recipe', 'what I made')
    await it.click('Keep as the next version')
    expect(late.asked?.both[0]).toMatchObject({ theirs: 'what Odile made', yours: 'what I made' })
    expect(stands).toBe('what Odile made')
    await late.asked?.mine()
    await it.settled()
    expect(stands).toBe('what I made')
    expect(it.asked('POST /reviews/4/recipes').map((one) => (one as { seen: string }).seen)).toEqual([
      'as it was',
      'what Odile made',
    ])
  })

  it('in a cell is asked about, and one’s own value goes in only over what one has seen', async () => {
    const item = { id: 7, name: 'Colonies', kind: 'number', per: [] }
    const study = { id: 3, label: 'Orsel 1998', reports: [] }
    const it = await page(
      (await import('@/stages/chart/EvidenceTable.vue')).default,
      '/reviews/4/chart',
      told({
        'GET /reviews/4/evidence': {
          codebook: { items: [item] },
          levels: [],
          studies: [study],
          values: valuesOf(),
          upto: 1,
        },
        'GET /reviews/4/evidence/view': {},
        'GET /reviews/4/reports-together': [],
        'GET /reviews/4/proposals': {
          cells: [],
          reports: [],
          accepted: 0,
          changed: 0,
          refused: 0,
          waiting: 0,
          reading: false,
        },
        'GET /reviews/4/evidence/values/3/7': [],
        'PUT /reviews/4/evidence/values': ([cell]: { seen: string }[]) =>
          cell!.seen === '12' ? [] : [{ study: 3, item: 7, message: 'Odile changed this to 12.', theirs: '12' }],
      }),
    )
    const grid = it.box.querySelector<HTMLElement>('[role=grid]')!
    grid.focus()
    await it.press('2', grid)
    const typing = it.box.querySelector<HTMLInputElement>('[role=gridcell] input')!
    typing.value = '21'
    typing.dispatchEvent(new Event('input', { bubbles: true }))
    await it.press('Enter', typing)
    expect(late.asked).toMatchObject({
      message: 'Odile changed this to 12.',
      both: [{ what: 'Orsel 1998: Colonies', theirs: '12', yours: '21' }],
    })
    await late.asked?.mine()
    const sent = it.asked('PUT /reviews/4/evidence/values') as { text: string; seen: string }[][]
    expect(sent.map(([cell]) => [cell!.text, cell!.seen])).toEqual([
      ['21', ''],
      ['21', '12'],
    ])
  })
})
