// One query in three views. The view that is typed in keeps what is typed; the other two keep the last good state.
import { computed, onBeforeUnmount, reactive, ref, watch, type Ref } from 'vue'
import { got, POST, type Schemas } from '@/api/client'
import { complain } from '@/common/messages'

export type View = 'concepts' | 'lines' | 'text'
export type Concept = Schemas['QueryConcept']

/** What was last read, or is being read, on its way into the draft: the next view that opens waits for it. */
let lastRead: Promise<void> = Promise.resolve()

const key = (review: number) => `kettle-query-${review}`

export function useDraft(review: Ref<number>, latest: Ref<string | undefined>) {
  const state = reactive({
    text: '',
    typed: '',
    lines: [''] as string[],
    concepts: [] as Concept[],
    notes: [] as Schemas['QueryNote'][],
    problem: null as Schemas['QueryProblem'] | null,
    wrongIn: null as View | null,
  })
  const ready = ref(false)
  const reading = ref(false)
  let asked = 0
  let soon: ReturnType<typeof setTimeout> | undefined
  /** What was typed and not read yet: in which view, and of which review, as another may be open by then. */
  let unread: [View, number] | undefined

  /** Kept by hand: what is read after the view was left has to be kept, too. */
  function remember(of: number) {
    try {
      localStorage.setItem(key(of), state.wrongIn === 'text' ? state.typed : state.text)
    } catch {
      // without storage the draft lasts as long as the page
    }
  }

  /** What was typed into concepts is a term of the query now, unless it was changed meanwhile. */
  function adopt(sent: string[][], typed: string[][]) {
    state.concepts.forEach(({ terms }, k) =>
      terms.forEach((term, n) => (terms[n] = (term === sent[k]?.[n] && typed[k]?.[n]) || term)),
    )
  }

  /** Read what one view says, and bring the other two up to date when it makes sense. */
  const read = (from: View, of = review.value) => (lastRead = understand(from, of))
  async function understand(from: View, of: number) {
    const mine = ++asked
    unread = undefined
    const body =
      from === 'text'
        ? { text: state.typed }
        : from === 'lines'
          ? { lines: state.lines.filter((line, k) => line.trim() || k < state.lines.length - 1) }
          : { concepts: state.concepts }
    const sent = state.concepts.map((concept) => [...concept.terms])
    reading.value = true
    try {
      const understood = await got(POST('/api/reviews/{review}/query/read', { params: { path: { review: of } }, body }))
      if (mine !== asked) return
      state.problem = understood.problem
      state.wrongIn = understood.problem ? from : null
      if (!understood.problem) {
        state.text = understood.text
        state.notes = from === 'text' ? understood.notes : []
        if (from !== 'text') state.typed = understood.text
        if (from !== 'lines') state.lines = understood.lines
        if (from !== 'concepts') state.concepts = understood.concepts
      }
      if (from === 'concepts') adopt(sent, understood.typed)
      remember(of)
    } catch (error) {
      if (mine === asked) complain(error)
    } finally {
      if (mine === asked) reading.value = false
    }
  }

  /** Read when the typing pauses. */
  function changed(from: View) {
    clearTimeout(soon)
    const of = review.value
    unread = [from, of]
    soon = setTimeout(() => read(from, of), 300)
  }

  /** Take over a whole query, such as an earlier step. */
  async function put(text: string) {
    clearTimeout(soon)
    state.typed = text
    if (text.trim()) return read('text')
    Object.assign(state, { text: '', lines: [''], concepts: [], notes: [], problem: null, wrongIn: null })
    remember(review.value)
  }

  /** Put terms into a concept, or into a new one for -1; what the concept is called, and a way back. */
  async function into(place: number, terms: string[]): Promise<{ name: string; undo: () => Promise<unknown> } | null> {
    const before = state.text
    const isNew = place < 0
    if (isNew) state.concepts.push({ label: '', joint: 'any', terms: [], left_out: false, fields: [] })
    const concept = state.concepts.at(place)
    if (!concept) return null
    concept.terms.push(...terms.filter((term) => !concept.terms.includes(term)))
    await read('concepts')
    return { name: isNew ? 'a new concept' : concept.label || `concept ${place + 1}`, undo: () => put(before) }
  }

  watch(
    latest,
    async (text) => {
      if (ready.value || text === undefined) return
      await lastRead
      ready.value = true
      let kept: string | null = null
      try {
        kept = localStorage.getItem(key(review.value))
      } catch {
        // no storage: begin with the newest step
      }
      void put(kept || text)
    },
    { immediate: true },
  )
  onBeforeUnmount(() => {
    clearTimeout(soon)
    if (unread) void read(...unread)
  })
  const empty = computed(() => !state.text)
  return { state, ready, reading, empty, changed, read, put, into }
}
