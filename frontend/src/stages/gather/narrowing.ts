// A rule for setting aside as a person fills it in, and as the server takes it.
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
export const FRESH: Limits = {
  name: '',
  query: '',
  before: '',
  after: '',
  language: '',
  kind: '',
  abstract: '',
  keep: false,
  spare: true,
  again: false,
}

const year = (text: string) => (/^\d{4}$/.test(text.trim()) ? Number(text) : null)

/** What the server takes: it puts query and limits together. */
export function ruleOf(limits: Limits): Schemas['LimitedRule'] {
  return {
    ...limits,
    name: limits.name.trim(),
    query: limits.query.trim(),
    before: year(limits.before),
    after: year(limits.after),
  }
}
