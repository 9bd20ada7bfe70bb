// Files that were dropped and are not in the review yet: what was understood of each, and the searches they are of.
import { computed, reactive } from 'vue'
import { GET, got, POST, Refusal, type Schemas, upload } from '@/api/client'

type Kind = Schemas['SearchEntry']['kind']
export type Fate = 'looked' | 'sending' | 'reading' | 'in' | 'failed'

export interface Dropped {
  key: number
  file: File
  share: number
  found?: Schemas['Dropped']
  failure: string
  fate: Fate
}
/** A search as it will be written down, and its files. */
export interface Row {
  key: number
  source: string
  kind: Kind
  run_on: string
  announced: string
  query: string
  files: Dropped[]
}

let last = 0
const day = (time: number) => {
  const at = new Date(time)
  return `${at.getFullYear()}-${String(at.getMonth() + 1).padStart(2, '0')}-${String(at.getDate()).padStart(2, '0')}`
}

/** Whether a file goes on with the export that a row has begun. */
function goesOn(row: Row, found: Schemas['Dropped']) {
  const first = row.files.find((file) => file.found)?.found
  return !!first && first.stem === found.stem && first.format === found.format
}

export function useDropped(review: () => number) {
  const state = reactive({ rows: [] as Row[], looking: [] as Dropped[], taking: false })
  const path = () => ({ path: { review: review() } })

  async function add(files: Iterable<File>) {
    await Promise.all(
      Array.from(files, async (file) => {
        state.looking.push({ key: ++last, file, share: 0, failure: '', fate: 'looked' })
        await look(state.looking.at(-1)!)
      }),
    )
  }
  async function look(dropped: Dropped) {
    try {
      const answer = await upload(
        `/api/reviews/${review()}/files/look`,
        dropped.file,
        (share) => (dropped.share = share),
      )
      dropped.found = answer as unknown as Schemas['Dropped']
    } catch (error) {
      dropped.failure = error instanceof Refusal ? error.message : String(error)
      return
    }
    state.looking = state.looking.filter((other) => other.key !== dropped.key)
    const row = state.rows.find((other) => goesOn(other, dropped.found!))
    if (row) row.files.push(dropped)
    else state.rows.push(rowOf(dropped, dropped.found))
    state.rows.sort((a, b) => a.files[0]!.key - b.files[0]!.key) // in the order in which they were dropped
    state.rows.forEach((one) => one.files.sort((a, b) => (a.found?.part ?? 0) - (b.found?.part ?? 0)))
  }
  const rowOf = (dropped: Dropped, found: Schemas['Dropped']): Row => ({
    key: ++last,
    source: found.source,
    kind: found.kind,
    run_on: found.dated ?? day(dropped.file.lastModified),
    announced: '',
    query: '',
    files: [dropped],
  })

  /** A file of several gets a search of its own. */
  function part(row: Row, dropped: Dropped) {
    row.files = row.files.filter((other) => other.key !== dropped.key)
    state.rows.splice(state.rows.indexOf(row) + 1, 0, { ...row, key: ++last, announced: '', files: [dropped] })
  }
  function drop(row: Row) {
    state.rows = state.rows.filter((one) => one.key !== row.key)
  }
  const forget = (dropped: Dropped) => (state.looking = state.looking.filter((other) => other.key !== dropped.key))

  const records = (row: Row) => row.files.reduce((sum, dropped) => sum + (dropped.found?.records ?? 0), 0)
  const announced = (row: Row) => {
    const said = row.announced.replace(/[\s,.]/g, '')
    return said === '' ? null : /^\d{1,9}$/.test(said) ? Number(said) : undefined
  }
  /** What keeps a row from being taken in; empty when nothing does. */
  const wrong = (row: Row) =>
    !row.source.trim()
      ? 'Name the source.'
      : announced(row) === undefined
        ? 'The announced count is a whole number.'
        : row.run_on && !/^\d{4}-\d\d-\d\d$/.test(row.run_on)
          ? 'A date is YYYY-MM-DD.'
          : ''
  const ready = computed(() => state.rows.length > 0 && !state.rows.some(wrong) && !state.taking)

  /** All rows, one after the other: the files that are in then, and their records. What failed stays. */
  async function takeAll(): Promise<{ records: number; batches: number[] }> {
    state.taking = true
    const taken = { records: 0, batches: [] as number[] }
    try {
      for (const row of [...state.rows]) {
        taken.batches.push(...(await take(row)))
        taken.records += row.files.reduce(
          (sum, dropped) => sum + (dropped.fate === 'in' ? (dropped.found?.records ?? 0) : 0),
          0,
        )
        row.files = row.files.filter((file) => file.fate !== 'in')
      }
    } finally {
      state.taking = false
    }
    state.rows = state.rows.filter((row) => row.files.length)
    return taken
  }
  const setAside = (batch: number) =>
    got(POST('/api/reviews/{review}/files/{batch}/set-aside', { params: { path: { review: review(), batch } } }))
  async function take(row: Row): Promise<number[]> {
    const { id } = await got(
      POST('/api/reviews/{review}/searches', {
        params: path(),
        body: {
          source: row.source.trim(),
          kind: row.kind,
          query: row.query,
          run_on: row.run_on || null,
          announced: announced(row) ?? null,
          run_by: '',
          limits: '',
          notes: '',
        },
      }),
    )
    const taken: number[] = []
    for (const file of row.files) taken.push(...(await takeFile(id, file)))
    return taken
  }
  async function takeFile(search: number, dropped: Dropped): Promise<number[]> {
    try {
      dropped.fate = 'sending'
      const address = `/api/reviews/${review()}/searches/${search}/files`
      const sent = (await upload(
        address,
        dropped.file,
        (share) => (dropped.share = share),
      )) as unknown as Schemas['Uploaded']
      dropped.fate = 'reading'
      for (const batch of sent.batches) {
        await read(batch)
        await got(
          POST('/api/reviews/{review}/files/{batch}/take-in', { params: { path: { review: review(), batch } } }),
        )
      }
      dropped.fate = 'in'
      return sent.batches
    } catch (error) {
      dropped.fate = 'failed'
      dropped.failure = error instanceof Refusal ? error.message : String(error)
      return []
    }
  }
  /** Wait until the worker has read a file. */
  async function read(batch: number) {
    for (;;) {
      const files = await got(GET('/api/reviews/{review}/files', { params: path() }))
      const dropped = files.find((one) => one.id === batch)
      if (dropped?.state === 'read') return
      if (!dropped || dropped.state === 'failed')
        throw new Refusal(dropped?.failure || 'The file could not be read.', 422)
      await new Promise((resolve) => setTimeout(resolve, 700))
    }
  }

  return { state, add, part, drop, forget, records, wrong, ready, takeAll, setAside, announced }
}
