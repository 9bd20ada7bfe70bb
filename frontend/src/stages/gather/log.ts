// The search log as rows that can be sorted and filtered, and what its counts say.
import type { Schemas } from '@/api/client'
import { count } from '@/common/format'

export type Search = Schemas['Search']
export type Run = Schemas['Run']
export type SortKey = 'number' | 'source' | 'kind' | 'run_on' | 'announced' | 'imported' | 'difference'
export const SORTS: [SortKey, string, boolean][] = [
  ['number', 'Search', true],
  ['source', 'Source', false],
  ['run_on', 'Last run', false],
  ['announced', 'Announced', true],
  ['imported', 'Taken in', true],
  ['difference', 'Difference', false],
]

const value = (search: Search, key: SortKey): string | number => {
  if (key === 'announced') return search.announced_in_all ?? -1
  if (key === 'difference')
    return search.difference === null || search.difference === undefined ? -1 : Math.abs(search.difference)
  return search[key] ?? ''
}

/** The entries that hold every word, in the order of a column; ties as in the log. */
export function arranged(log: Search[], words: string, by: SortKey, down: boolean): Search[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean)
  const text = (search: Search) =>
    [
      search.number,
      search.source,
      search.kind,
      search.notes,
      ...search.runs.flatMap((run) => [run.query, run.limits, run.run_by, run.run_on, run.notes, run.catalogue]),
    ]
      .join(' ')
      .toLowerCase()
  const held = log.filter((one) => wanted.every((word) => text(one).includes(word)))
  const sign = down ? -1 : 1
  return [...held].sort((a, b) => {
    const [one, two] = [value(a, by), value(b, by)]
    return (one < two ? -sign : one > two ? sign : 0) || a.number - b.number
  })
}

export const gapWords = (n: number) =>
  n === 0 ? 'all came' : n < 0 ? `${count(-n)} fewer came` : `${count(n)} more came`

/** What a run's count against what was announced says; nothing for a run without files. */
export function gapOf(run: Run): number | null {
  return run.announced === null || run.announced === undefined || run.catalogue || (!run.files && !run.imported)
    ? null
    : run.imported - run.announced
}

/** Whether a difference is explained by a note of the entry or of a run. */
export const explained = (search: Search) => !!search.notes.trim() || search.runs.some((run) => run.notes.trim())

export const RUN_STATES: Record<string, string> = {
  '': '',
  fetching: 'being fetched',
  done: 'fetched',
  failed: 'broke off',
  cancelled: 'cancelled',
}
