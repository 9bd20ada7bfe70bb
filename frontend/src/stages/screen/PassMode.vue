<script setup lang="ts">
// How one pass is screened. What another mode would do is said before it is chosen; no decision is lost by it.
import { computed, reactive, ref, watch } from 'vue'
import { got, POST, PUT, type Schemas } from '@/api/client'
import { count, day, plural, SETTLING, VERDICT_WORDS } from '@/common/format'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh } from '@/common/review'
import VerdictMark from '@/common/VerdictMark.vue'

type Mode = Schemas['OnePass']['mode']
const props = defineProps<{ pass: Schemas['OnePass']; review: number; mayLead: boolean; chosen: boolean }>()
const emit = defineEmits<{ choose: [] }>()
const refresh = useRefresh()

const READERS = [
  { value: 1, title: 'One person' },
  { value: 2, title: 'Two people, independently and blind' },
  { value: 3, title: 'Three people, independently and blind' },
  { value: 4, title: 'Four people, independently and blind' },
]
const DIFFER = [
  { value: 'verdict', title: 'their verdicts do' },
  { value: 'reason', title: 'their verdicts or reasons do' },
]
const UNSURE = [
  { value: 'stays', title: 'stays a question' },
  { value: 'goes_on', title: 'goes on to the next step' },
]
const said = reactive<Mode>({ ...props.pass.mode })
watch(
  () => props.pass.mode,
  (mode) => Object.assign(said, mode),
)
const changed = computed(() => (Object.keys(said) as (keyof Mode)[]).some((key) => said[key] !== props.pass.mode[key]))
const moved = ref<Schemas['Moved'][]>()
const body = (mode: Mode) => ({ pass_number: props.pass.pass_number as 1 | 2, mode: { ...mode } })
watch(
  () => ({ ...said }),
  async (mode) => {
    moved.value = undefined
    if (!changed.value || !props.mayLead) return
    try {
      const found = await got(
        POST('/api/reviews/{review}/passes/preview', { params: { path: { review: props.review } }, body: body(mode) }),
      )
      if (JSON.stringify(mode) === JSON.stringify(said)) moved.value = found
    } catch (error) {
      complain(error)
    }
  },
)
const put = (mode: Mode) =>
  got(PUT('/api/reviews/{review}/passes', { params: { path: { review: props.review } }, body: body(mode) }))
async function change() {
  const before = { ...props.pass.mode }
  const done = await attempt(() => put({ ...said }))
  await again()
  if (done)
    say(`${name.value} is screened in another way from now on.`, async () => {
      await put(before)
      await again()
    })
}
const again = () => refresh('passes', 'figures', 'records', 'queue', 'differences', 'sharings', 'agreement', 'flow')
const name = computed(() => (props.pass.pass_number === 1 ? 'First pass' : 'Second pass'))
const first = computed(() => props.pass.pass_number === 1)
const list = (key: string) => `/reviews/${props.review}/records?list=${first.value ? key : `second_${key}`}`
</script>

<template>
  <form class="pass pad" :class="{ chosen }" @submit.prevent="change">
    <div class="row">
      <h2>
        <button type="button" :aria-pressed="chosen" @click="emit('choose')">{{ name }}</button>
      </h2>
      <span class="soft small">{{ first ? 'titles and abstracts' : 'full texts' }}</span>
    </div>
    <p class="small figures">
      <router-link :to="list('open')">{{ count(pass.open) }} to be decided</router-link>
      <router-link v-if="pass.differ" :to="`/reviews/${review}/screen/differences?pass=${pass.pass_number}`"
        ><VerdictMark verdict="differs" words="" /> {{ count(pass.differ) }} differ</router-link
      >
      <span class="soft">you: {{ count(pass.mine_read) }} read, {{ count(pass.mine_left) }} left</span>
    </p>
    <ChoiceField v-model="said.readers" :items="READERS" label="Each record is read by" :disabled="!mayLead" />
    <template v-if="said.readers > 1">
      <ChoiceField v-model="said.differ" :items="DIFFER" label="People differ where" :disabled="!mayLead" />
      <ChoiceField v-model="said.settling" :items="SETTLING" label="What differs is settled by" :disabled="!mayLead" />
    </template>
    <ChoiceField
      v-model="said.unsure"
      :items="UNSURE"
      label="A record on which somebody is unsure"
      :disabled="!mayLead"
    />
    <div v-if="changed" class="notice small" role="status">
      <p v-if="!moved" class="soft">Working out what that would change …</p>
      <template v-else>
        <p v-if="!moved.length">Every record would stand where it does now. All decisions stay.</p>
        <template v-else>
          <p>All decisions stay. From them would follow:</p>
          <ul>
            <li v-for="one in moved" :key="one.before + one.after">
              {{ plural(one.records, 'record') }}:
              <span class="way"><VerdictMark :verdict="one.before" words="" /> {{ VERDICT_WORDS[one.before] }}</span> →
              <span class="way"><VerdictMark :verdict="one.after" words="" /> {{ VERDICT_WORDS[one.after] }}</span>
              <span v-if="one.judged" class="odd">
                {{ count(one.judged) }} of them have a verdict on the full text</span
              >
            </li>
          </ul>
        </template>
        <div class="row">
          <v-btn class="main" type="submit">Screen so from now on</v-btn>
          <v-btn @click="Object.assign(said, pass.mode)">Leave it</v-btn>
        </div>
      </template>
    </div>
    <p v-if="pass.since" class="small soft">So since {{ day(pass.since) }}, {{ pass.by }}</p>
  </form>
</template>

<style scoped>
.pass {
  display: grid;
  gap: 8px;
  border-bottom: 1px solid var(--ks-hair);
  border-left: 3px solid transparent;
}
.chosen {
  border-left-color: var(--ks-copper);
  background: var(--ks-sheet);
}
.figures {
  display: flex;
  gap: 12px;
  flex-wrap: wrap;
}
ul {
  margin: 0;
  padding: 0 0 0 16px;
}
.way {
  white-space: nowrap;
}
</style>
