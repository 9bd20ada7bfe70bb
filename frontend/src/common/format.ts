// Numbers, dates and references as people read them.
const numbers = new Intl.NumberFormat('en')
const days = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })
const moments = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit', hour12: false })

export const count = (n: number) => numbers.format(n)
export const plural = (n: number, one: string, many = `${one}s`) => `${count(n)} ${n === 1 ? one : many}`
export const day = (iso: string) => days.format(new Date(iso))
export const moment = (iso: string) => moments.format(new Date(iso))

export function ago(iso: string): string {
  const seconds = Math.max(0, (Date.now() - new Date(iso).getTime()) / 1000)
  if (seconds < 45) return 'a moment ago'
  if (seconds < 3600) return `${plural(Math.round(seconds / 60), 'minute')} ago`
  if (seconds < 86400) return `${plural(Math.round(seconds / 3600), 'hour')} ago`
  return plural(Math.round(seconds / 86400), 'day') + ' ago'
}

/** "Orsel T, Vanterpool M, and 3 more" */
export function people(authors: string[], most = 3): string {
  const short = authors.slice(0, most).map((name) => {
    const [family, given] = name.split(',')
    const initials = (given ?? '').trim().split(/[\s.-]+/).filter(Boolean).map((part) => part[0]).join('')
    return initials ? `${family} ${initials}` : (family ?? '')
  })
  const rest = authors.length - short.length
  return short.join(', ') + (rest > 0 ? `, and ${rest} more` : '')
}

export function place(it: { volume: string; issue: string; pages: string }): string {
  const head = it.volume + (it.issue ? `(${it.issue})` : '')
  return [head, it.pages].filter(Boolean).join(': ')
}

export const VERDICT_WORDS: Record<string, string> = { include: 'Included', exclude: 'Excluded', unsure: 'Unsure', open: 'Not decided' }
export const FULL_TEXT_WORDS: Record<string, string> = { sought: 'Sought', obtained: 'Obtained', missing: 'Not obtained' }
export const SOURCE_KINDS = [
  { value: 'database', title: 'Database' },
  { value: 'register', title: 'Register' },
  { value: 'website', title: 'Website' },
  { value: 'organisation', title: 'Organisation' },
  { value: 'citation', title: 'Citation searching' },
] as const
export const KIND_WORDS: Record<string, string> = {
  article: 'Journal article', conference: 'Conference paper', thesis: 'Thesis', book: 'Book', chapter: 'Book chapter', report: 'Report',
  preprint: 'Preprint', registration: 'Registry entry', website: 'Website', other: 'Other',
}
