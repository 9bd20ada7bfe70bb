<script setup lang="ts">
// The steps and versions of a query so far: noted, gone back to, compared with what it is now.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { got, POST, type Schemas } from '@/api/client'
import { count, moment, plural } from '@/common/format'
import { useReview } from '@/common/review'

const props = defineProps<{ text: string; history?: Schemas['Steps']; mayNote: boolean; wrong: boolean }>()
// what the next step or version is said to have changed
const note = defineModel<string>('note', { required: true })
const emit = defineEmits<{ noteIt: []; back: [step: Schemas['QueryStep']] }>()
const { review, path } = useReview()

const beside = ref<Schemas['QueryStep'] | null>(null)
const { data: comparison } = useQuery({
  queryKey: ['trial', review, 'beside', computed(() => props.text), computed(() => beside.value?.text ?? '')],
  queryFn: () => {
    const body = { one: props.text, other: beside.value?.text ?? '' }
    return got(POST('/api/reviews/{review}/query/compare', { params: path.value, body }))
  },
  enabled: computed(() => !!beside.value && !!props.text),
})
const found = (query: string) => ({ path: `/reviews/${review.value}/records`, query: { list: 'all', query } })
</script>

<template>
  <div>
    <h2 class="below">Steps so far</h2>
    <form v-if="mayNote" class="row noting" @submit.prevent="emit('noteIt')">
      <input
        v-model="note"
        class="box note-field"
        aria-label="What this step changed"
        placeholder="What this step changed"
        maxlength="500"
      /><v-btn type="submit" :disabled="wrong">Note it</v-btn>
    </form>
    <table v-if="history?.steps.length" class="small">
      <tbody>
        <tr v-for="step in history.steps" :key="step.id" :class="{ on: step.text === text }">
          <td>
            <button
              class="link plain-link"
              :title="`${step.text}\n${step.by}, ${moment(step.at)}`"
              @click="emit('back', step)"
            >
              <b v-if="step.version">Version {{ step.version }}</b
              >{{ step.version && step.note ? ': ' : ''
              }}{{ step.note || (step.version ? '' : step.text.slice(0, 34) + (step.text.length > 34 ? '…' : '')) }}
            </button>
          </td>
          <td class="num">
            <router-link :to="found(step.text)">{{ count(step.hits) }}</router-link>
          </td>
          <td class="num soft nowrap">{{ step.seeds }} of {{ history.seeds }}</td>
          <td class="num">
            <button
              v-if="step.text !== text"
              class="link"
              :aria-pressed="beside?.id === step.id"
              :aria-label="`Compare with ${step.version ? `version ${step.version}` : step.note || 'this step'}`"
              @click="beside = beside?.id === step.id ? null : step"
            >
              ⇄
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else class="small soft">
      A step keeps the query as it is, so that it can be returned to; a version is a step with a number.
    </p>
    <div v-if="beside && comparison" class="compare small">
      <b>Now beside {{ beside.version ? `version ${beside.version}` : beside.note || 'the step' }}</b>
      <div>Both find {{ count(comparison.both) }}.</div>
      <div>
        Only now:
        <router-link :to="found(comparison.found_by_one)">{{
          plural(comparison.only_one, 'record')
        }}</router-link><template v-if="comparison.seeds_one.length"
          >, seeds gained: {{ comparison.seeds_one.map((one) => one.title).join('; ') }}</template
        >
      </div>
      <div>
        Only then:
        <router-link :to="found(comparison.found_by_other)">{{
          plural(comparison.only_other, 'record')
        }}</router-link><template v-if="comparison.seeds_other.length"
          >,
          <span class="bad">seeds lost: {{ comparison.seeds_other.map((one) => one.title).join('; ') }}</span></template
        >
      </div>
    </div>
  </div>
</template>

<style scoped>
.below {
  margin-top: 20px;
}
.plain-link {
  color: inherit;
  text-decoration-color: var(--ks-hair);
  overflow-wrap: anywhere;
}
.noting {
  margin: 6px 0;
}
.note-field {
  flex: 1;
}
.compare {
  border: 1px solid var(--ks-hair);
  border-radius: 3px;
  padding: 8px 10px;
  margin-top: 8px;
  background: var(--ks-sheet);
  display: grid;
  gap: 2px;
}
.nowrap {
  white-space: nowrap;
}
.num a {
  color: inherit;
}
</style>
