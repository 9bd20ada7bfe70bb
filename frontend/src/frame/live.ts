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
  gather: [
    'recipes',
    'labels',
    'lists',
    'narrowings',
    'gaps',
    'schedules',
    'losses',
    'entry',
    'trial',
    'query-steps',
    'figures',
    'searches',
    'files',
    'look',
    'seeds',
    'records',
    'flow',
    'history',
    'sheet',
  ],
  match: [
    'trial',
    'trials',
    'pair',
    'removed',
    'people-said',
    'decided-twice',
    'late',
    'match-rule',
    'match-rule-versions',
    'samples',
    'sample',
    'query-steps',
    'figures',
    'questions',
    'groups',
    'copies',
    'records',
    'flow',
    'history',
    'queue',
    'searches',
    'files',
    'seeds',
    'evidence',
    'full-texts',
  ],
  screen: [
    'notes',
    'figures',
    'records',
    'flow',
    'history',
    'queue',
    'full-texts',
    'delivered',
    'evidence',
    'members',
    'own',
    'passes',
    'sharings',
    'differences',
    'agreement',
    'remaining',
    'progress',
  ],
  underlining: ['underlining', 'history'],
  chart: [
    'evidence',
    'proposals',
    'codebook',
    'figures',
    'flow',
    'history',
    'cell',
    'extraction',
    'compared',
    'appraisal',
    'analyses',
  ],
  pool: ['analyses', 'figures', 'history'],
  ranking: ['queue', 'records'],
  rating: ['proposals'],
  orders: ['orders', 'queue'],
  groups: ['groupings', 'alike', 'nearest'],
  jobs: ['jobs', 'proposals', 'trials', 'files', 'look', 'gaps', 'searches'],
  presence: ['people'],
  hello: ['people', 'jobs', 'figures'],
}

/** What colleagues do all the time is looked at after a while, not at each word; seconds. */
const PATIENT: Record<string, number> = { screen: 0.8, ranking: 4, jobs: 0.5 }
/** What costs the server more than a count: looked at again less often still while others decide. */
const COSTLY = new Set([
  'records',
  'flow',
  'history',
  'queue',
  'full-texts',
  'evidence',
  'members',
  'passes',
  'sharings',
  'agreement',
  'remaining',
])
const COSTLY_AFTER = 8

export function useLive(review: Ref<number>) {
  const client = useQueryClient()
  const connected = ref(true)
  let source: EventSource | undefined
  let retry: ReturnType<typeof setTimeout> | undefined
  const due = new Map<string, number>()
  let soon: ReturnType<typeof setTimeout> | undefined

  /** Look again at what is due, and come back for the rest. */
  function refresh() {
    const now = Date.now()
    for (const [key, at] of due) {
      if (at > now) continue
      due.delete(key)
      void client.invalidateQueries({ queryKey: [key] })
    }
    clearTimeout(soon)
    soon = due.size ? setTimeout(refresh, Math.max(20, Math.min(...due.values()) - now)) : undefined
  }

  /** A word of change: each kind of data is looked at again after a while, by each browser at another moment. */
  function heard(word: string) {
    const now = Date.now()
    if (word === 'missed') return void setTimeout(() => client.invalidateQueries(), 2000 * Math.random()) // nobody knows what was said meanwhile
    for (const key of STALE[word] ?? ['figures']) {
      const wait = word === 'screen' && COSTLY.has(key) ? COSTLY_AFTER : (PATIENT[word] ?? 0.12)
      const at = now + 1000 * wait * (PATIENT[word] ? 0.7 + 0.6 * Math.random() : 1)
      due.set(key, Math.min(at, due.get(key) ?? at))
    }
    refresh()
  }

  function open() {
    source?.close()
    clearTimeout(retry)
    if (!review.value) return
    source = new EventSource(`/api/reviews/${review.value}/live`)
    source.addEventListener('word', (event) => {
      connected.value = true
      heard((event as MessageEvent<string>).data)
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
