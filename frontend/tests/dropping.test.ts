import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Schemas } from '@/api/client'
import { page, Refused, type Page } from './page'

// what the server finds in a file, by its name; a file is sent by a request of its own, so this stands in for it
const found: Record<string, Partial<Schemas['Dropped']> | Error> = {}
const sent: string[] = []
vi.mock('@/api/client', async (load) => {
  const client = await load<typeof import('@/api/client')>()
  return {
    ...client,
    upload: async (address: string, file: File, progress: (share: number) => void) => {
      sent.push(`${address} ${file.name}`)
      progress(1)
      const it = found[file.name]
      if (it instanceof Error) throw it
      if (!address.endsWith('/look')) return { batches: [sent.length], same_as: '' }
      return {
        filename: file.name,
        format: 'RIS',
        certainty: 'sure',
        records: 10,
        problems: 0,
        odd: 0,
        source: 'Agrarica',
        kind: 'database',
        dated: null,
        stem: file.name,
        part: 0,
        ...it,
      }
    },
  }
})
const { Refusal } = await import('@/api/client')
const { messages } = await import('@/common/messages')
const { useDropped } = await import('@/stages/gather/dropping')
const DropSheet = (await import('@/stages/gather/DropSheet.vue')).default

const file = (name: string) => new File(['x'], name, { lastModified: new Date(2026, 1, 4).getTime() })
let dropped: ReturnType<typeof useDropped>
let shown: Page
const read = () => Array.from({ length: 30 }, (_, k) => ({ id: k, state: 'read' }))
async function open(files: string[], more: object = {}) {
  dropped = useDropped(() => 4)
  await dropped.add(files.map(file))
  shown = await page(
    DropSheet,
    '/reviews/4/gather',
    {
      'GET /reviews/4/files': read(),
      'POST /reviews/4/searches': { id: 7 },
      ...Object.fromEntries(read().map((it) => [`POST /reviews/4/files/${it.id}/take-in`, undefined])),
      ...Object.fromEntries(read().map((it) => [`POST /reviews/4/files/${it.id}/set-aside`, undefined])),
      ...more,
    },
    { dropped },
  )
}
const value = (label: string) => (shown.field(label) as HTMLInputElement).value
const pasted = async (label: string, text: string) => {
  const event = new Event('paste', { bubbles: true, cancelable: true })
  Object.assign(event, { clipboardData: { getData: () => text } })
  shown.field(label).dispatchEvent(event)
  await shown.settled()
}
const takeAll = async () => {
  window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', ctrlKey: true }))
  await vi.waitFor(() => expect(dropped.state.taking).toBe(false))
  await shown.settled()
}
beforeEach(() => {
  messages.value = []
  sent.length = 0
  for (const name of Object.keys(found)) delete found[name]
})

describe('dropped files', () => {
  it('are lines of a sheet in the order in which they were dropped, parts of one export together', async () => {
    Object.assign(found, { 'b-2.ris': { stem: 'b', part: 2 }, 'b-1.ris': { stem: 'b', part: 1 } })
    await open(['a.ris', 'b-2.ris', 'b-1.ris', 'c.ris'])
    expect(dropped.state.rows.map((row) => row.files.map((it) => it.file.name))).toEqual([
      ['a.ris'],
      ['b-1.ris', 'b-2.ris'],
      ['c.ris'],
    ])
    expect(shown.text()).toContain('4 files of 3 searches')
    expect(value('Date of a.ris')).toBe('2026-02-04')
    await shown.click('A search of its own for b-2.ris')
    expect(shown.text()).toContain('4 files of 4 searches')
  })

  it('that are none are told, and the others go on', async () => {
    found['bad.ris'] = new Refusal('bad.ris: this is a picture.', 422)
    await open(['bad.ris', 'a.ris'])
    expect(shown.text()).toContain('bad.ris: this is a picture.')
    expect(shown.text()).toContain('1 file of 1 search')
    await shown.click('Close')
    expect(shown.text()).not.toContain('picture')
  })

  it('are completed by a block from a spreadsheet, which fills cells to the right and down', async () => {
    await open(['a.ris', 'b.ris'])
    await pasted(
      'Source of a.ris',
      'Vitalis Index\tRegister\t2026-02-05\t12\tbees\r\nNorthern Theses\tDatabase\t\t10\r\nlost\r\n',
    )
    expect(dropped.state.rows.map((it) => [it.source, it.kind, it.run_on, it.announced, it.query])).toEqual([
      ['Vitalis Index', 'register', '2026-02-05', '12', 'bees'],
      ['Northern Theses', 'database', '', '10', ''],
    ])
    expect(shown.text()).toContain('2 fewer')
  })

  it('are not taken in before every line can be written down', async () => {
    await open(['a.ris', 'b.ris'])
    for (const [label, wrong, said, right] of [
      ['Source of b.ris', ' ', 'Name the source.', 'Agrarica'],
      ['Announced for b.ris', 'many', 'a whole number', '1,204'],
      ['Date of b.ris', '4 Feb', 'YYYY-MM-DD', '2026-02-04'],
    ] as const) {
      await shown.type(label, wrong)
      expect(shown.text()).toContain(said)
      expect(shown.button('Take all in')!.disabled).toBe(true)
      await takeAll()
      expect(shown.asked('POST /reviews/4/searches')).toEqual([])
      await shown.type(label, right)
    }
    expect(shown.button('Take all in')!.disabled).toBe(false)
  })

  it('are written down, sent, read and taken in with one key, and set aside again by an undo', async () => {
    await open(['a.ris', 'b.ris'])
    await shown.type('Announced for a.ris', '1,204')
    sent.length = 0
    await takeAll()
    expect(shown.asked('POST /reviews/4/searches')).toMatchObject([
      { source: 'Agrarica', kind: 'database', announced: 1204, run_on: '2026-02-04' },
      { source: 'Agrarica', announced: null },
    ])
    expect(sent).toEqual(['/api/reviews/4/searches/7/files a.ris', '/api/reviews/4/searches/7/files b.ris'])
    expect(messages.value[0]?.text).toBe('20 records of 2 files are in.')
    expect(dropped.state.rows).toEqual([])
    await messages.value[0]?.undo?.()
    expect(shown.asked('POST /reviews/4/files/1/set-aside')).toHaveLength(1)
    expect(shown.asked('POST /reviews/4/files/2/set-aside')).toHaveLength(1)
  })

  it('that cannot be taken in stay, with the reason, while the others are in', async () => {
    await open(['a.ris', 'b.ris'], {
      'POST /reviews/4/files/2/take-in': new Refused(409, 'This file was taken in already.'),
    })
    sent.length = 0
    await takeAll()
    expect(dropped.state.rows.map((row) => row.files[0]!.file.name)).toEqual(['b.ris'])
    expect(shown.text()).toContain('This file was taken in already.')
    expect(messages.value.map((it) => it.text)).toContain('10 records of 1 file are in.')
  })

  it('can be left out, and brought back', async () => {
    await open(['a.ris', 'b.ris'])
    await shown.click('Leave out a.ris')
    expect(shown.text()).toContain('1 file of 1 search')
    await shown.click('Leave them out')
    expect(dropped.state.rows).toEqual([])
    await messages.value[0]?.undo?.()
    expect(dropped.state.rows).toHaveLength(1)
  })
})
