<script setup lang="ts">
// Records as a file: the format, what it cannot hold, and of a table the columns.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { got, POST, Refusal } from '@/api/client'
import { count, plural } from '@/common/format'
import { complain, say } from '@/common/messages'
import { useReview } from '@/common/review'
import { LOSS_WORDS, save, TABLE_COLUMNS, WRITE_FORMATS, type WriteFormat } from './writing'

const props = defineProps<{ wanted: Record<string, unknown>; records: number[]; total: number }>()
const open = defineModel<boolean>({ required: true })
const { review, path } = useReview()
const to = ref<WriteFormat>('ris')
const columns = ref(TABLE_COLUMNS.map(([key]) => key as string))
const busy = ref(false)
const isTable = computed(() => to.value === 'csv' || to.value === 'xlsx')
const { data: losses, isFetching } = useQuery({
  queryKey: ['losses', review, computed(() => props.wanted), computed(() => props.records), to],
  queryFn: () =>
    got(
      POST('/api/reviews/{review}/records/losses', {
        params: { ...path.value, query: { ...props.wanted, to: to.value } as never },
        body: { records: props.records, columns: [] },
      }),
    ),
  enabled: open,
  retry: false,
})
async function write() {
  busy.value = true
  try {
    const address = `/api/reviews/${review.value}/records/export?${new URLSearchParams(
      Object.entries<unknown>({ ...props.wanted, to: to.value })
        .filter(([, value]) => value !== undefined && value !== '')
        .map(([key, value]) => [key, String(value)]),
    )}`
    await save(
      address,
      JSON.stringify({ records: props.records, columns: isTable.value ? columns.value : [] }),
      `records.${WRITE_FORMATS.find((write_format) => write_format.value === to.value)?.ending}`,
    )
    say(`${plural(props.total, 'record')} written.`)
    open.value = false
  } catch (failure) {
    complain(failure instanceof Refusal ? failure : new Refusal('The file could not be fetched. Please try again.', 0))
  }
  busy.value = false
}
const toggle = (key: string) =>
  (columns.value = columns.value.includes(key)
    ? columns.value.filter((column) => column !== key)
    : TABLE_COLUMNS.map(([name]) => name as string).filter((name) => name === key || columns.value.includes(name)))
</script>

<template>
  <v-dialog v-model="open" max-width="640" aria-label="Export records">
    <v-card class="pad">
      <div class="row">
        <h2>Export {{ plural(total, 'record') }}</h2>
        <v-btn class="push" @click="open = false">Close</v-btn>
      </div>
      <div class="row formats" role="radiogroup" aria-label="Format">
        <label v-for="write_format in WRITE_FORMATS" :key="write_format.value"
          ><input v-model="to" type="radio" name="format" :value="write_format.value" /> {{ write_format.title }}</label
        >
      </div>
      <div v-if="isTable" class="columns small">
        <label v-for="[key, title] in TABLE_COLUMNS" :key="key"
          ><input type="checkbox" :checked="columns.includes(key)" @change="toggle(key)" /> {{ title }}</label
        >
      </div>
      <p v-if="isFetching" class="soft small" role="status">Looking at what it could not hold …</p>
      <template v-else-if="losses">
        <p v-if="!losses.losses.length" class="small soft">
          Nothing is lost{{ losses.looked_at < total ? `, as far as the first ${count(losses.looked_at)} show` : '' }}.
        </p>
        <template v-else
          ><h3 class="gap">
            What this format cannot hold{{
              losses.looked_at < total ? `, in the first ${count(losses.looked_at)}` : ''
            }}
          </h3>
          <table class="small">
            <tbody>
              <tr v-for="loss in losses.losses" :key="loss.field">
                <td>{{ LOSS_WORDS[loss.field] ?? loss.field }}</td>
                <td class="num">{{ plural(loss.records, 'record') }}</td>
                <td class="soft value">
                  {{ loss.before }}<template v-if="loss.after"> → {{ loss.after }}</template>
                </td>
              </tr>
            </tbody>
          </table></template
        >
      </template>
      <p class="small soft gap">
        Where each record came from, and its labels, go along: in tables in columns, elsewhere as
        {{ to === 'ris' ? 'C8 and C7' : to === 'nbib' ? 'ORIG and LABL' : '“origin” and “label”' }}.
      </p>
      <div class="row gap"><v-btn class="main" :disabled="busy || !total" @click="write">Write the file</v-btn></div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.formats {
  margin: 12px 0;
  flex-wrap: wrap;
  gap: 14px;
}
.columns {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 2px 8px;
  margin-bottom: 8px;
}
.gap {
  margin-top: 12px;
}
.value {
  overflow-wrap: anywhere;
  max-width: 320px;
}
</style>
