// Copies side by side: the fields as rows, and which letters differ from the first that says something.
import type { Schemas } from '@/api/client'
import { differ, type Piece } from '@/common/differ'
import { KIND_WORDS } from '@/common/format'

export type Copy = Schemas['Side']
export type Fields = Schemas['RecordFields']

export interface Row {
  label: string
  /** The weight's field, "" where nothing is weighed. */
  weighed: string
  /** The fields of the record that the row shows; a value is chosen for all of them. */
  fields: string[]
  text: (fields: Fields) => string
}
const one = (field: keyof Fields & string, label: string, weighed = ''): Row => ({
  label,
  weighed,
  fields: [field],
  text: (one) => {
    const value = one[field]
    return Array.isArray(value) ? value.join('; ') : String(value ?? '')
  },
})
export const ROWS: Row[] = [
  one('title', 'Title', 'title'),
  one('authors', 'Authors', 'authors'),
  one('year', 'Year', 'year'),
  { label: 'Journal', weighed: 'journal', fields: ['journal'], text: (one) => one.journal || one.journal_short },
  {
    label: 'Volume, pages',
    weighed: 'place',
    fields: ['volume', 'pages'],
    text: (one) => [one.volume, one.pages].filter(Boolean).join(': '),
  },
  one('issue', 'Issue', 'issue'),
  one('doi', 'DOI', 'doi'),
  one('accession', 'Accession', 'accession'),
  { label: 'Kind', weighed: 'kind', fields: ['kind'], text: (one) => KIND_WORDS[one.kind] ?? one.kind },
  one('language', 'Language', 'language'),
  one('abstract', 'Abstract', 'abstract'),
]

/** What differs but for capitals: a title in capitals is not all underlined. */
function differing(a: string, b: string): [Piece[], Piece[]] {
  const small: [string, string] = [a.toLowerCase(), b.toLowerCase()]
  if (small[0].length !== a.length || small[1].length !== b.length) return differ(a, b)
  return differ(...small).map((all, k) => {
    let at = 0
    return all.map((one) => ({ ...one, text: [a, b][k]!.slice(at, (at += one.text.length)) }))
  }) as [Piece[], Piece[]]
}

/** Each copy's text in pieces; letters that differ from the first copy that says something are marked, not capitals. */
export function pieces(texts: string[]): Piece[][] {
  const at = texts.findIndex((text) => text)
  const first = texts[at] ?? ''
  const second = texts.findIndex((text, k) => k !== at && text)
  return texts.map((text, k) => {
    if (!text || !first) return text ? [{ text, differs: false }] : []
    if (k === at) return second < 0 ? [{ text, differs: false }] : differing(text, texts[second] ?? '')[0]
    return differing(first, text)[1]
  })
}

export const signed = (n: number) => (n > 0.05 ? '+' : n < -0.05 ? '−' : '') + Math.abs(n).toFixed(1)
export const KINDS: Record<string, string> = {
  notice: 'Erratum or correction',
  reply: 'Letter and reply',
  yearly: 'Yearly reports',
  part: 'Parts and phases',
  contrast: 'Opposites',
  edition: 'Editions',
  update: 'Updates',
  protocol: 'Protocol or registration',
  preprint: 'Preprint',
  translation: 'Translation',
  abstract: 'Conference abstract',
  namesake: 'Namesakes',
  untitled: 'Untitled pieces',
  recurring: 'Recurring titles',
  word: 'A word differs',
  elsewhere: 'Published elsewhere',
}
export const VERDICTS: Record<string, string> = { include: 'include', exclude: 'exclude', unsure: 'unsure' }
export const percent = (share: number) =>
  share > 0.995 ? 'over 99 %' : share < 0.005 ? 'under 1 %' : `${Math.round(100 * share)} %`
