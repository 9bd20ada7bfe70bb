// Word of changes from the server, turned into fresh figures and lists.
import { useQueryClient } from '@tanstack/vue-query'
import { onBeforeUnmount, ref, watch, type Ref } from 'vue'

/** Which queries a word makes stale. */
const STALE: Record<string, string[]> = {
  plan: ['protocol', 'members', 'reviews', 'history', 'figures'],
  query: ['query-steps', 'history'],
  vocabularies: ['vocabularies', 'headings', 'trial', 'query-steps', 'history'],
  catalogues: ['catalogues', 'history'],
  syntaxes: ['syntaxes', 'history'],
  gather: ['recipes', 'labels', 'narrowings', 'gaps', 'schedules', 'losses', 'entry', 'trial', 'query-steps', 'figures', 'searches', 'files', 'look', 'seeds', 'records', 'flow', 'history', 'filter-values', 'sheet'],
  match: ['trial', 'trials', 'pair', 'removed', 'people-said', 'decided-twice', 'late', 'match-rule', 'match-rule-versions', 'samples', 'sample', 'query-steps', 'figures', 'questions', 'groups', 'copies', 'records', 'flow', 'history', 'queue', 'searches', 'files', 'seeds', 'evidence', 'full-texts', 'filter-values'],
  screen: ['figures', 'records', 'flow', 'history', 'queue', 'full-texts', 'evidence', 'members', 'own'],
  desk: [],
  chart: ['evidence', 'codebook', 'figures', 'flow', 'history', 'cell'],
  ranking: ['queue', 'records'],
  jobs: ['jobs', 'trials', 'files', 'look', 'gaps', 'searches'],
  presence: ['people'],
  hello: ['people', 'jobs', 'figures'],
}

export function useLive(review: Ref<number>) {
  const client = useQueryClient()
  const connected = ref(true)
  let source: EventSource | undefined
  let retry: ReturnType<typeof setTimeout> | undefined
  const due = new Set<string>()
  let soon: ReturnType<typeof setTimeout> | undefined

  function refresh() {
    soon = undefined
    for (const key of due) client.invalidateQueries({ queryKey: [key] })
    due.clear()
  }

  function open() {
    source?.close()
    clearTimeout(retry)
    if (!review.value) return
    source = new EventSource(`/api/reviews/${review.value}/live`)
    source.addEventListener('word', (event) => {
      connected.value = true
      for (const key of STALE[(event as MessageEvent<string>).data] ?? ['figures']) due.add(key)
      soon ??= setTimeout(refresh, 120)
    })
    source.onerror = () => {
      connected.value = false
      source?.close()
      retry = setTimeout(open, 3000)
    }
  }

  watch(review, open, { immediate: true })
  onBeforeUnmount(() => {
    source?.close()
    clearTimeout(retry)
    clearTimeout(soon)
  })
  return { connected }
}
