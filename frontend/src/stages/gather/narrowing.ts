// A rule for setting aside as a person fills it in, and as the server takes it: limits become part of the query.
import type { Schemas } from '@/api/client'

export interface Limits {
  name: string
  query: string
  before: string
  after: string
  language: string
  kind: string
  abstract: '' | 'yes' | 'no'
  keep: boolean
  spare: boolean
  again: boolean
}
export const FRESH: Limits = { name: '', query: '', before: '', after: '', language: '', kind: '', abstract: '', keep: false, spare: true, again: false }

const year = (text: string) => (/^\d{4}$/.test(text.trim()) ? Number(text) : null)
const quoted = (text: string) => (/^\w+$/.test(text) ? text : `"${text.replace(/"/g, '')}"`)

export function ruleOf(it: Limits): Schemas['Rule'] {
  const [before, after] = [year(it.before), year(it.after)]
  const years = [before ? `year:-${before - 1}` : '', after ? `year:${after + 1}-` : ''].filter(Boolean)
  const parts = [years.length > 1 ? `(${years.join(' OR ')})` : years[0], it.language && `language:${quoted(it.language)}`, it.kind && `type:${quoted(it.kind)}`, it.query.trim() && (/\s/.test(it.query.trim()) ? `(${it.query.trim()})` : it.query.trim())].filter(Boolean)
  const only = parts.length === 1 && it.query.trim() ? it.query.trim() : parts.join(' AND ')
  return { name: it.name.trim(), query: only, abstract: it.abstract, keep: it.keep, spare: it.spare, again: it.again }
}
