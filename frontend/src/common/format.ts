// Numbers, dates and references as people read them.
import { formatTimeAgo, type UseTimeAgoMessages } from '@vueuse/core'

const numbers = new Intl.NumberFormat('en')
const days = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })
const moments = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
  hour12: false,
})

export const count = (n: number) => numbers.format(n)
export const plural = (n: number, one: string, many = `${one}s`) => `${count(n)} ${n === 1 ? one : many}`
export const day = (iso: string) => days.format(new Date(iso))
export const moment = (iso: string) => moments.format(new Date(iso))

/** A number with so many places; a dash where there is none. */
export const figure = (n: number | null | undefined, places = 2) =>
  n === null || n === undefined ? '—' : n.toFixed(places).replace('-', '−')
/** A share in per cent, with so many places. */
export const percent = (share: number | null | undefined, places = 0) =>
  share === null || share === undefined ? '—' : `${(100 * share).toFixed(places)} %`

const past = (unit: string) => (n: number) => plural(n, unit)
const AGO: UseTimeAgoMessages = {
  justNow: 'a moment ago',
  invalid: '',
  past: (said) => (/\d/.test(said) ? `${said} ago` : said),
  future: () => 'a moment ago', // a clock that is a little late
  second: past('second'),
  minute: past('minute'),
  hour: past('hour'),
  day: past('day'),
  week: past('week'),
  month: past('month'),
  year: past('year'),
}
export const ago = (iso: string) => formatTimeAgo(new Date(iso), { messages: AGO })

/** What any value of the wire says, as people read it; lists with something between their parts. */
export function plain(value: unknown, between = '; '): string {
  if (Array.isArray(value)) return value.map((one) => plain(one, ' ')).join(between)
  if (typeof value === 'string') return value
  return value === null || value === undefined ? '' : JSON.stringify(value)
}

/** "Orsel T, Vanterpool M, and 3 more" */
export function people(authors: string[], most = 3): string {
  const short = authors.slice(0, most).map((name) => {
    const [family, given] = name.split(',')
    const initials = (given ?? '')
      .trim()
      .split(/[\s.-]+/)
      .filter(Boolean)
      .map((part) => part[0])
      .join('')
    return initials ? `${family} ${initials}` : (family ?? '')
  })
  const rest = authors.length - short.length
  return short.join(', ') + (rest > 0 ? `, and ${rest} more` : '')
}

export function place(one: { volume: string; issue: string; pages: string }): string {
  const head = one.volume + (one.issue ? `(${one.issue})` : '')
  return [head, one.pages].filter(Boolean).join(': ')
}

/** Who settles what two people said differently. */
export const SETTLING = [
  { value: 'third', title: 'a third person' },
  { value: 'talk', title: 'any of the team, after talk' },
] as const
export const VERDICT_WORDS: Record<string, string> = {
  include: 'Included',
  exclude: 'Excluded',
  unsure: 'Unsure',
  differs: 'Verdicts differ',
  settled: 'Settled as they said so far',
  open: 'Not decided',
}
export const FULL_TEXT_WORDS: Record<string, string> = {
  sought: 'Sought',
  obtained: 'Obtained',
  missing: 'Not obtained',
}
export const SOURCE_KINDS = [
  { value: 'database', title: 'Database' },
  { value: 'register', title: 'Register' },
  { value: 'website', title: 'Website' },
  { value: 'organisation', title: 'Organisation' },
  { value: 'citation', title: 'Citation searching' },
] as const
export const KIND_WORDS: Record<string, string> = {
  article: 'Journal article',
  conference: 'Conference paper',
  thesis: 'Thesis',
  book: 'Book',
  chapter: 'Book chapter',
  report: 'Report',
  preprint: 'Preprint',
  registration: 'Registry entry',
  website: 'Website',
  other: 'Other',
}
