<script setup lang="ts">
// The team's own words to underline at the desk and in full texts, for and against.
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { GET, got, PUT, Refusal } from '@/api/client'
import { plural } from '@/common/format'
import { complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'

const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ changed: [] }>()
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const { data, refetch } = useQuery({
  queryKey: ['underlining', review],
  queryFn: () => got(GET('/api/reviews/{review}/underlining', { params: path.value })),
  enabled: open,
})
const typed = reactive({ supports: '', opposes: '', seen: 0 })
const problem = ref<{ message: string; field: string } | null>(null)
const begun = ref(false)
watch(
  [data, open],
  ([marked, shown]) => {
    if (!shown) begun.value = false
    else if (marked && !begun.value) {
      Object.assign(typed, {
        supports: marked.supports.join('\n'),
        opposes: marked.opposes.join('\n'),
        seen: marked.number,
      })
      begun.value = true
    }
  },
  { immediate: true },
)
const lines = (text: string) => text.split('\n').filter((one) => one.trim()).length
const numbers = computed(() => `${lines(typed.supports)} for, ${lines(typed.opposes)} against`)
async function set(supports: string, opposes: string, seen: number) {
  const made = await got(
    PUT('/api/reviews/{review}/underlining', { params: path.value, body: { supports, opposes, seen } }),
  )
  await refresh('underlining')
  emit('changed')
  return made
}
async function save() {
  const before = data.value
  problem.value = null
  try {
    const made = await set(typed.supports, typed.opposes, typed.seen)
    open.value = false
    say(`${plural(made.supports.length + made.opposes.length, 'word is', 'words are')} underlined.`, () =>
      set(before?.supports.join('\n') ?? '', before?.opposes.join('\n') ?? '', made.number),
    )
  } catch (error) {
    if (error instanceof Refusal && error.status === 422)
      problem.value = { message: error.message, field: String(error.details.field) }
    else if (error instanceof Refusal && error.status === 409) {
      complain(error)
      typed.seen = Number(error.details.number)
      void refetch()
    } else complain(error)
  }
}
</script>

<template>
  <v-dialog v-model="open" width="720">
    <form class="pane sheet pad fields" aria-labelledby="words-title" @submit.prevent="save">
      <h2 id="words-title">Words to underline</h2>
      <p class="small soft">
        For the whole team, in titles, abstracts and full texts. One word or phrase a line, <code>winter*</code> for all
        that begins so. They come over the words that the order learned, and change no order.
      </p>
      <div class="two">
        <div>
          <p class="small"><mark class="for own">speaks for</mark></p>
          <TextArea
            v-model="typed.supports"
            label="Words that speak for a record"
            rows="10"
            autofocus
            :readonly="!mayWrite"
            :error="problem?.field === 'supports' ? problem.message : ''"
          />
        </div>
        <div>
          <p class="small"><mark class="against own">speaks against</mark></p>
          <TextArea
            v-model="typed.opposes"
            label="Words that speak against it"
            rows="10"
            :readonly="!mayWrite"
            :error="problem?.field === 'opposes' ? problem.message : ''"
          />
        </div>
      </div>
      <div v-if="data && typed.seen !== data.number" class="odd small">
        A colleague's now: for {{ data.supports.join(', ') || 'nothing' }}; against
        {{ data.opposes.join(', ') || 'nothing' }}.
      </div>
      <div class="row">
        <v-btn v-if="mayWrite" type="submit" class="main">Underline them</v-btn>
        <v-btn @click="open = false">Close</v-btn>
        <span class="soft small push">{{ numbers }}</span>
      </div>
    </form>
  </v-dialog>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
}
</style>
