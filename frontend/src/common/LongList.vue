<script setup lang="ts" generic="T">
// A list of any length: only what is in sight is drawn, pages are fetched as they come into sight.
import { useVirtualizer } from '@tanstack/vue-virtual'
import { useEventListener, useTimeoutFn } from '@vueuse/core'
import { computed, nextTick, ref, shallowReactive, watch } from 'vue'
import { gone } from '@/api/client'
import { sentenceOf } from './messages'
import StateOf from './StateOf.vue'

const PAGE = 100
const AGAIN = 5000 // ms until it is tried again where the server was not there
const props = defineProps<{
  load: (offset: number, limit: number) => Promise<{ total: number; rows: T[] }>
  version: unknown
  rowHeight: number
  label: string
  current?: number
}>()
const emit = defineEmits<{ total: [n: number] }>()

const box = ref<HTMLElement | null>(null)
const pages = shallowReactive(new Map<number, T[]>())
const total = ref<number | null>(null)
const failed = ref<unknown>(null)
let generation = 0
const under = new Set<number>()
const missed = new Set<number>() // pages that could not be fetched; what was there before stays in sight

async function fetchPage(page: number) {
  if (under.has(page)) return
  under.add(page)
  const mine = generation
  try {
    const found = await props.load(page * PAGE, PAGE)
    if (mine !== generation) return
    pages.set(page, found.rows)
    missed.delete(page)
    if (!missed.size) failed.value = null
    if (total.value !== found.total) {
      total.value = found.total
      emit('total', found.total)
    }
  } catch (error) {
    if (mine !== generation) return
    missed.add(page)
    failed.value = error
    if (gone(error)) soon.start()
  } finally {
    under.delete(page)
  }
}

const virtual = useVirtualizer(
  computed(() => ({
    count: total.value ?? 0,
    getScrollElement: () => box.value,
    estimateSize: () => props.rowHeight,
    overscan: 12,
  })),
)
const shown = computed(() => virtual.value.getVirtualItems())
const row = (index: number): T | undefined => pages.get(Math.floor(index / PAGE))?.[index % PAGE]

function wanted(): number[] {
  const first = shown.value[0]?.index ?? 0
  const last = shown.value.at(-1)?.index ?? 0
  const out = []
  for (let page = Math.floor(first / PAGE); page <= Math.floor(last / PAGE); page++) out.push(page)
  return out
}

const fill = () => wanted().forEach((page) => (pages.has(page) && !missed.has(page)) || fetchPage(page))
const soon = useTimeoutFn(fill, AGAIN, { immediate: false })
useEventListener(window, 'online', () => failed.value && fill())
watch(shown, fill)
watch(
  () => props.version,
  (now, before) => {
    generation++
    under.clear()
    missed.clear()
    failed.value = null
    const keep = JSON.stringify(now)?.split('|')[0] === JSON.stringify(before)?.split('|')[0]
    const again = wanted()
    if (!keep) {
      pages.clear()
      total.value = null
    } else for (const page of [...pages.keys()]) if (!again.includes(page)) pages.delete(page)
    again.forEach(fetchPage)
  },
  { immediate: true },
)

function reveal(index: number) {
  void nextTick(() => {
    const top = box.value?.scrollTop ?? 0
    const at = index * props.rowHeight
    const inSight = at >= top && at + props.rowHeight <= top + (box.value?.clientHeight ?? 0)
    if (!inSight) virtual.value.scrollToIndex(index, { align: Math.abs(at - top) > 2000 ? 'center' : 'auto' })
  })
}
function find(match: (one: T) => boolean): number {
  for (const [page, rows] of pages) {
    const at = rows.findIndex(match)
    if (at >= 0) return page * PAGE + at
  }
  return -1
}
async function at(index: number): Promise<T | undefined> {
  if (!pages.has(Math.floor(index / PAGE))) await fetchPage(Math.floor(index / PAGE))
  return row(index)
}
watch(
  () => props.current,
  (index) => index !== undefined && index >= 0 && reveal(index),
)
defineExpose({ find, at, reveal, total })
</script>

<template>
  <div ref="box" class="long" :role="total ? 'list' : 'region'" :aria-label="label" tabindex="0">
    <StateOf v-if="total === null" :pending="!failed" :error="failed" :retry="fill" />
    <slot v-else-if="total === 0" name="empty" />
    <div v-else :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
      <div
        v-for="one in shown"
        :key="String(one.key)"
        class="line"
        role="listitem"
        :aria-posinset="one.index + 1"
        :aria-setsize="total"
        :style="{ transform: `translateY(${one.start}px)`, height: `${rowHeight}px` }"
      >
        <slot v-if="row(one.index)" name="row" :row="row(one.index)!" :index="one.index" />
        <span v-else class="soft small pad">…</span>
      </div>
    </div>
    <p v-if="failed && total !== null" class="missed small odd pad" role="alert">
      {{ gone(failed) ? 'The server cannot be reached. This list is tried again by itself.' : sentenceOf(failed) }}
      <button class="link" @click="fill">Try again</button>
    </p>
  </div>
</template>

<style scoped>
.long {
  height: 100%;
  overflow: auto;
  min-height: 0;
}
.missed {
  position: sticky;
  bottom: 0;
  background: var(--ks-sheet);
  border-top: 1px solid var(--ks-hair);
}
.line {
  position: absolute;
  left: 0;
  right: 0;
  top: 0;
  overflow: hidden;
  border-bottom: 1px solid var(--ks-hair);
}
</style>
