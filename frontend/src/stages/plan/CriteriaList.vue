<script setup lang="ts">
// The ordered criteria: what a number key at the desk stands for.
import { useQuery } from '@tanstack/vue-query'
import { computed, nextTick, ref } from 'vue'
import { GET, got, type Schemas } from '@/api/client'
import { plural } from '@/common/format'
import { useReview } from '@/common/review'

const criteria = defineModel<Schemas['Criterion'][]>({ required: true })
defineProps<{ may: boolean }>()
const emit = defineEmits<{ touched: [] }>()
const list = ref<HTMLElement | null>(null)
const dragged = ref<number | null>(null)
const { review, path } = useReview()
/** What each criterion excludes: the records that rewording it touches. */
const { data: excluded } = useQuery({
  queryKey: ['protocol', review, 'excluded'],
  queryFn: () => got(GET('/api/reviews/{review}/protocol/excluded', { params: path.value })),
})
const touched = computed(() => new Map((excluded.value ?? []).map((one) => [one.criterion, one])))
const records = (list: string, criterion: number) => ({
  path: `/reviews/${review.value}/records`,
  query: { list, criterion: String(criterion) },
})

/** The dragged criterion takes the place that it is held over. */
function over(k: number) {
  if (dragged.value === null || dragged.value === k) return
  const [moved] = criteria.value.splice(dragged.value, 1)
  if (moved) criteria.value.splice(k, 0, moved)
  dragged.value = k
  emit('touched')
}

async function move(k: number, by: number) {
  const to = k + by
  const moved = criteria.value[k]
  if (!moved || to < 0 || to >= criteria.value.length) return
  criteria.value.splice(k, 1)
  criteria.value.splice(to, 0, moved)
  emit('touched')
  await nextTick()
  list.value?.querySelectorAll<HTMLElement>('.up')[to]?.focus()
}
function add() {
  criteria.value.push({ id: null, name: '', wording: '', first: true, second: true, used: false })
  emit('touched')
}
</script>

<template>
  <div ref="list" @input="emit('touched')">
    <div class="row">
      <h2>Criteria</h2>
      <v-btn v-if="may" class="push" @click="add">Add a criterion</v-btn>
    </div>
    <p class="soft small lead">
      A record is excluded for the first criterion that it fails. The number is its key at the desk. Rewording one
      touches the records that it excludes: they may have to be looked at again.
    </p>
    <p v-if="!criteria.length" class="soft">
      No criterion yet. Screening needs at least one, such as “Wrong population”.
    </p>
    <ol>
      <li
        v-for="(criterion, k) in criteria"
        :key="criterion.id ?? `new-${k}`"
        :class="{ held: dragged === k }"
        @dragover.prevent="over(k)"
        @drop.prevent="dragged = null"
      >
        <kbd
          :class="{ handle: may }"
          :draggable="may"
          :title="may ? 'Drag to another place' : undefined"
          @dragstart="dragged = k"
          @dragend="dragged = null"
          >{{ k + 1 }}</kbd
        >
        <div class="fields">
          <TextField
            v-model="criterion.name"
            :label="`Criterion ${k + 1}: short name, as a reason for excluding`"
            :readonly="!may"
            maxlength="120"
          />
          <TextArea
            v-model="criterion.wording"
            :label="criterion.used ? 'Full wording · in use: rewording it is an amendment' : 'Full wording'"
            :readonly="!may"
            rows="1"
            maxlength="4000"
          />
          <p v-if="criterion.id && touched.get(criterion.id)" class="small soft">
            Excludes
            <router-link :to="records('excluded', criterion.id)">{{
              plural(touched.get(criterion.id)!.first, 'record')
            }}</router-link>
            in the first pass,
            <router-link :to="records('reports_excluded', criterion.id)">{{
              plural(touched.get(criterion.id)!.second, 'full text')
            }}</router-link>
            in the second.
          </p>
          <div class="row">
            <TickBox
              v-model="criterion.first"
              label="First pass"
              :disabled="!may"
              @update:model-value="emit('touched')"
            />
            <TickBox
              v-model="criterion.second"
              label="Second pass"
              :disabled="!may"
              @update:model-value="emit('touched')"
            />
            <template v-if="may">
              <v-btn class="push up" :disabled="k === 0" :aria-label="`Move criterion ${k + 1} up`" @click="move(k, -1)"
                >↑</v-btn
              >
              <v-btn
                :disabled="k === criteria.length - 1"
                :aria-label="`Move criterion ${k + 1} down`"
                @click="move(k, 1)"
                >↓</v-btn
              >
              <v-btn
                :aria-label="`Remove criterion ${criterion.name}`"
                @click="(criteria.splice(k, 1), emit('touched'))"
                >Remove</v-btn
              >
            </template>
          </div>
        </div>
      </li>
    </ol>
  </div>
</template>

<style scoped>
.lead {
  margin: 4px 0 12px;
}
ol {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  display: grid;
  grid-template-columns: 28px minmax(0, 1fr);
  gap: 8px;
  padding: 12px 0;
  border-top: 1px solid var(--ks-hair);
  align-items: start;
}
li kbd {
  justify-self: start;
  margin-top: 8px;
}
.handle {
  cursor: grab;
}
.held {
  background: var(--ks-copper-wash);
}
.fields {
  gap: 8px;
}
</style>
