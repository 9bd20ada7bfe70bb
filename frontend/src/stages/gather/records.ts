// Which columns the table of records shows beside the title; a choice of each person, kept in the browser.
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'

export const COLUMNS = [
  ['sources', 'Sources'],
  ['labels', 'Labels'],
  ['doi', 'DOI'],
  ['accession', 'Accession'],
  ['kind', 'Kind'],
  ['language', 'Language'],
] as const

export function useColumns() {
  const kept = useLocalStorage<unknown>('kettle-record-columns', ['sources'], { onError: () => undefined })
  const columns = computed(() => {
    const chosen = Array.isArray(kept.value) ? (kept.value as unknown[]) : ['sources']
    return COLUMNS.map(([name]) => name as string).filter((name) => chosen.includes(name))
  })
  function toggle(key: string) {
    const now = columns.value
    kept.value = now.includes(key) ? now.filter((one) => one !== key) : [...now, key]
  }
  return { columns, toggle }
}

/** The columns of a row: picking, rank, mark, title, the chosen ones, state, copies, seed. */
export function rowGrid(columns: string[]): string {
  const chosen = columns.map(() => 'minmax(80px, 140px)').join(' ')
  return `16px 40px 16px minmax(200px, 1fr) ${chosen} minmax(120px, 190px) 60px 72px`
}
