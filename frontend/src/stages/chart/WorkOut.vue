<script setup lang="ts">
// A value worked out from other numbers: of the same group, of two measurements, of several arms, of two groups against
// each other; by which formula.
import { useDebounceFn } from '@vueuse/core'
import { computed, reactive, ref, watch } from 'vue'
import { got, POST, Refusal, type Schemas } from '@/api/client'
import { useReview } from '@/common/review'
import { placeOf, type Evidence } from './evidence'
import { levelsOf, type Item, type Place } from './layout'

type Way = Schemas['WorkedOutFrom']['way']
const props = defineProps<{
  place: Place
  item: Item
  evidence: Evidence
  /** What the value was worked out from, if it was. */
  from: Schemas['WorkedOutFrom'] | null
  mayWrite: boolean
}>()
const { path } = useReview()
const GROUP: [string, string][] = [
  ['n', 'n'],
  ['mean', 'Mean'],
  ['sd', 'SD'],
  ['se', 'SE'],
  ['ci_low', 'Interval from'],
  ['ci_high', 'to'],
  ['level', 'Its level (0.95)'],
  ['median', 'Median'],
  ['q1', 'Lower quartile'],
  ['q3', 'Upper quartile'],
  ['min', 'Lowest'],
  ['max', 'Highest'],
]
const CHANGE: [string, string][] = [
  ['mean1', 'First mean'],
  ['sd1', 'First SD'],
  ['mean2', 'Second mean'],
  ['sd2', 'Second SD'],
  ['correlation', 'Correlation assumed'],
  ['n', 'n'],
]
const RATIO: [string, string][] = [
  ['ratio', 'Ratio'],
  ['ci_low', 'Interval from'],
  ['ci_high', 'to'],
  ['level', 'Its level (0.95)'],
]
const DIFFERENCE: [string, string][] = [
  ['difference', 'Difference of means'],
  ['p', 'p of the t test'],
  ['n1', 'n of one group'],
  ['n2', 'n of the other'],
]
const FIELDS: Record<Way, [string, string][]> = {
  group: GROUP,
  change: CHANGE,
  arms: [],
  log_ratio: RATIO,
  log_se: RATIO,
  difference_se: DIFFERENCE,
}
const others = computed(() =>
  levelsOf(props.evidence.data.value?.levels ?? [], 'arm', props.place.study).filter(
    (one) => one.id !== props.place.arm,
  ),
)
const ways = computed(() => [
  ...(props.item.kind === 'mean_sd'
    ? [
        { value: 'group' as const, title: 'other numbers of this group' },
        { value: 'change' as const, title: 'two measurements of this group' },
      ]
    : []),
  ...(props.item.kind === 'number'
    ? [
        { value: 'log_ratio' as const, title: 'a ratio: its logarithm' },
        { value: 'log_se' as const, title: 'a ratio with its interval: SE of its logarithm' },
        { value: 'difference_se' as const, title: 'a difference with its p: SE of it' },
      ]
    : []),
  ...(['counts', 'mean_sd'].includes(props.item.kind) && props.item.per?.includes('arm') && others.value.length > 1
    ? [{ value: 'arms' as const, title: 'several arms together' }]
    : []),
])
const way = ref<Way>(props.from?.way ?? ways.value[0]?.value ?? 'group')
const typed = reactive<Record<string, string>>({})
const arms = ref<number[]>([...(props.from?.arms ?? [])])
watch(
  () => props.from,
  (one) => {
    if (!one) return
    way.value = one.way
    for (const [name, value] of Object.entries(one.givens ?? {})) typed[name] = String(value)
    arms.value = [...(one.arms ?? [])]
  },
  { immediate: true },
)
const fields = computed(() => FIELDS[way.value])
const source = computed((): Schemas['WorkedOutFrom'] => {
  const numbers = fields.value.map(
    ([name]) => [name, Number((typed[name] ?? '').replace(',', '.').replace('−', '-'))] as const,
  )
  const given = numbers.filter(([name, value]) => (typed[name] ?? '').trim() && !Number.isNaN(value))
  return { way: way.value, givens: Object.fromEntries(given), arms: way.value === 'arms' ? arms.value : [], by: '' }
})
const found = ref<Schemas['WorkedOutValue'] | null>(null)
const why = ref('')
const body = () => ({ ...placeOf(props.place), source: source.value })
let asked = 0
const look = useDebounceFn(async () => {
  const mine = ++asked
  if (!Object.keys(source.value.givens ?? {}).length && arms.value.length < 2) return (found.value = null)
  try {
    const worked = await got(
      POST('/api/reviews/{review}/evidence/derived/preview', { params: path.value, body: body() }),
    )
    if (mine === asked) [found.value, why.value] = [worked, '']
  } catch (failure) {
    if (mine === asked) [found.value, why.value] = [null, failure instanceof Refusal ? failure.message : '']
  }
}, 250)
watch(source, look, { deep: true, immediate: true })
async function take() {
  if (found.value) await props.evidence.workOut(props.place, found.value.text, source.value)
}
const toggle = (id: number) =>
  (arms.value = arms.value.includes(id) ? arms.value.filter((arm) => arm !== id) : [...arms.value, id])
</script>

<template>
  <form class="pad fields work" @submit.prevent="take">
    <p v-if="!ways.length" class="soft">
      A value of this kind is not worked out: it is typed, marked in the report, or accepted as proposed.
    </p>
    <template v-else>
      <ChoiceField v-model="way" :items="ways" label="Work it out from" :readonly="!mayWrite" />
      <div v-if="way !== 'arms'" class="givens">
        <TextField
          v-for="[name, label] in fields"
          :key="name"
          v-model="typed[name]"
          :label="label"
          inputmode="decimal"
          :readonly="!mayWrite"
        />
      </div>
      <div v-else class="fields">
        <TickBox
          v-for="other in others"
          :key="other.id"
          :model-value="arms.includes(other.id)"
          :label="`${other.name}: ${evidence.text({ ...place, arm: other.id }) || 'no value'}`"
          @update:model-value="toggle(other.id)"
        />
        <p class="small soft">The joined value follows its arms when they change.</p>
      </div>
      <div v-if="found" class="found">
        <b>{{ found.text }}</b>
        <span class="small soft">{{ found.by }}</span>
        <span v-for="doubt in found.doubts" :key="doubt" class="small odd" role="status">{{ doubt }}</span>
      </div>
      <p v-else-if="why" class="small odd" role="status">{{ why }}</p>
      <v-btn v-if="mayWrite" type="submit" class="main" :disabled="!found">Take it into the cell</v-btn>
    </template>
  </form>
</template>

<style scoped>
.work {
  overflow: auto;
  align-content: start;
  justify-items: start;
}
.givens {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 10px;
}
.found {
  display: grid;
  gap: 2px;
}
.found b {
  font-size: 17px;
}
</style>
