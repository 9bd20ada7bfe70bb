// Which columns the table of records shows beside the title; a choice of each person, kept in the browser.
import { ref } from 'vue'

export const COLUMNS = [['sources', 'Sources'], ['labels', 'Labels'], ['doi', 'DOI'], ['accession', 'Accession'], ['kind', 'Kind'], ['language', 'Language']] as const
const KEY = 'kettle-record-columns'
const known = new Set<string>(COLUMNS.map(([key]) => key))

export function useColumns() {
  const kept = (() => {
    try {
      return (JSON.parse(localStorage.getItem(KEY) ?? '["sources"]') as string[]).filter((it) => known.has(it))
    } catch {
      return ['sources']
    }
  })()
  const columns = ref<string[]>(kept)
  function toggle(key: string) {
    columns.value = columns.value.includes(key) ? columns.value.filter((it) => it !== key) : COLUMNS.map(([name]) => name as string).filter((name) => name === key || columns.value.includes(name))
    try {
      localStorage.setItem(KEY, JSON.stringify(columns.value))
    } catch {
      // a browser that keeps nothing shows the choice until the page is left
    }
  }
  return { columns, toggle }
}

/** The columns of a row: picking, rank, mark, title, the chosen ones, state, copies, seed. */
export const rowGrid = (columns: string[]) => `16px 40px 16px minmax(200px, 1fr) ${columns.map(() => 'minmax(80px, 140px)').join(' ')} minmax(120px, 190px) 60px 72px`
