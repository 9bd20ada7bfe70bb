// A filter on records, kept in the address so that it can be shared and come back to.
import { computed } from 'vue'
import { useRoute, useRouter, type LocationQuery } from 'vue-router'
import { useLeaving } from './leaving'

export interface Filter {
  list: string
  source: string
  year_from: string
  year_to: string
  abstract: string
  words: string
  verdict: string
  query: string
  typed: string
  label: string
  kind: string
  language: string
  doi: string
  pdf: string
  person: string
  criterion: string
  descriptor: string
  shared: string
  shared_qualified: string
}
export const FILTER_KEYS = [
  'list',
  'source',
  'year_from',
  'year_to',
  'abstract',
  'words',
  'verdict',
  'query',
  'typed',
  'label',
  'kind',
  'language',
  'doi',
  'pdf',
  'person',
  'criterion',
  'descriptor',
  'shared',
  'shared_qualified',
] as const

export function useFilter(defaults: Partial<Filter>) {
  const route = useRoute()
  const router = useRouter()
  const one = (value: LocationQuery[string] | undefined) => String((Array.isArray(value) ? value[0] : value) ?? '')
  const filter = computed<Filter>(
    () =>
      Object.fromEntries(
        FILTER_KEYS.map((key) => [key, one(route.query[key]) || (defaults[key] ?? '')]),
      ) as unknown as Filter,
  )
  const narrowed = computed(() => FILTER_KEYS.filter((key) => key !== 'list' && filter.value[key]).length)

  /** The filter as the server takes it. */
  const query = computed(() => ({
    list: filter.value.list || 'all',
    source: filter.value.source || undefined,
    year_from: Number(filter.value.year_from) || undefined,
    year_to: Number(filter.value.year_to) || undefined,
    abstract: filter.value.abstract === '' ? undefined : filter.value.abstract === 'yes',
    words: filter.value.words || undefined,
    query: filter.value.query || undefined,
    typed: filter.value.typed || undefined,
    label: Number(filter.value.label) || undefined,
    kind: filter.value.kind || undefined,
    language: filter.value.language || undefined,
    pdf: filter.value.pdf === '' ? undefined : filter.value.pdf === 'yes',
    person: Number(filter.value.person) || undefined,
    criterion: Number(filter.value.criterion) || undefined,
    descriptor: filter.value.descriptor || undefined,
    shared: Number(filter.value.shared) || undefined,
    shared_qualified: Number(filter.value.shared_qualified) || undefined,
    doi: filter.value.doi === '' ? undefined : filter.value.doi === 'yes',
    verdict: (filter.value.verdict || undefined) as 'open' | 'include' | 'exclude' | 'unsure' | 'differs' | undefined,
  }))

  const leaving = useLeaving()

  function set(changes: Partial<Filter> & { record?: string }) {
    if (leaving()) return Promise.resolve()
    const next: Record<string, string> = {}
    for (const [key, value] of Object.entries({ ...route.query, ...changes })) {
      const text = String(value ?? '')
      if (text && text !== (defaults as Record<string, string>)[key]) next[key] = text
    }
    return router.replace({ query: next })
  }
  const clear = () =>
    set({
      source: '',
      year_from: '',
      year_to: '',
      abstract: '',
      words: '',
      verdict: '',
      typed: '',
      label: '',
      kind: '',
      language: '',
      doi: '',
      pdf: '',
      person: '',
      criterion: '',
      descriptor: '',
      shared: '',
      shared_qualified: '',
    })
  return { filter, narrowed, query, set, clear }
}
