// Writing records as files: the formats, their columns, and saving what the server sends.
import { file } from '@/api/client'

export const WRITE_FORMATS = [
  { value: 'ris', title: 'RIS', ending: 'ris' },
  { value: 'nbib', title: 'NBIB', ending: 'nbib' },
  { value: 'bibtex', title: 'BibTeX', ending: 'bib' },
  { value: 'csv', title: 'CSV', ending: 'csv' },
  { value: 'xlsx', title: 'XLSX', ending: 'xlsx' },
  { value: 'csljson', title: 'CSL-JSON', ending: 'json' },
] as const
export type WriteFormat = (typeof WRITE_FORMATS)[number]['value']
const RECORD_COLUMNS = [
  ['accession', 'Accession'],
  ['kind', 'Kind'],
  ['title', 'Title'],
  ['authors', 'Authors'],
  ['year', 'Year'],
  ['date', 'Date'],
  ['journal', 'Journal'],
  ['journal_short', 'Journal, short'],
  ['volume', 'Volume'],
  ['issue', 'Issue'],
  ['pages', 'Pages'],
  ['doi', 'DOI'],
  ['issn', 'ISSN'],
  ['abstract', 'Abstract'],
  ['language', 'Language'],
  ['keywords', 'Descriptors'],
  ['url', 'Address'],
  ['publisher', 'Publisher'],
  ['references', 'Cites'],
  ['note', 'Note'],
  ['other', 'All else'],
] as const
export const FILE_COLUMNS = RECORD_COLUMNS
export const TABLE_COLUMNS = [
  ['record', 'Number here'],
  ...RECORD_COLUMNS,
  ['sources', 'Sources'],
  ['searches', 'Searches'],
  ['files and lines', 'Files and lines'],
  ['versions of the query', 'Query versions'],
  ['labels', 'Labels'],
  ['state', 'State'],
  ['seed', 'Seed'],
] as const
export const LOSS_WORDS: Record<string, string> = {
  ...Object.fromEntries(RECORD_COLUMNS),
  extra: 'Tags and columns of its own',
}

/** Fetch a file by a post, and hand it to the browser to keep. Throws a Refusal with the server's own sentence. */
export async function save(address: string, body: BodyInit, name: string): Promise<void> {
  const answer = await file(address, { method: 'POST', body })
  const link = document.createElement('a')
  link.href = URL.createObjectURL(await answer.blob())
  link.download = /filename\*=UTF-8''([^;]+)/.exec(answer.headers.get('content-disposition') ?? '')?.[1] ?? name
  try {
    link.download = decodeURIComponent(link.download)
  } catch {
    link.download = name
  }
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}
