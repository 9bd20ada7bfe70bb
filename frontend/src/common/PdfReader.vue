<script setup lang="ts">
// A PDF in place: pages one below the other, drawn as they come into sight;
// the review's terms underlined, a quote lit where it stands, marked words told; find, page and zoom by key.
import { useElementSize, useIntersectionObserver } from '@vueuse/core'
import { computed, nextTick, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import type { PDFDocumentProxy } from 'pdfjs-dist'
import { plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import {
  asOneLine,
  countIn,
  drawPage,
  findOn,
  findQuote,
  hasText,
  mark,
  openPdf,
  pageOfQuote,
  unmark,
  type Drawn,
  type PdfTerm,
} from './pdf'

const props = withDefaults(
  defineProps<{
    address: string
    name: string
    terms?: PdfTerm[]
    /** Words to light, and the page that they stand on as far as it is known. */
    quote?: { text: string; page: number | null } | null
  }>(),
  { terms: () => [], quote: null },
)
const emit = defineEmits<{
  /** Words were marked on a page; none if nothing is marked any more. */
  marked: [words: string, page: number]
  /** Whether the quote stands in this file. */
  quoted: [there: boolean]
}>()

const scroller = ref<HTMLElement | null>(null)
const finder = ref<HTMLInputElement | null>(null)
const file = shallowRef<PDFDocumentProxy | null>(null)
const sizes = ref<{ width: number; height: number }[]>([])
const problem = ref('')
const textless = ref(false)
const zoom = ref(1)
const page = ref(1)
const wanted = ref('')
const found = ref<number[]>([])
const at = ref(0)
const { width } = useElementSize(scroller)
const fit = computed(() => Math.max(0.3, (width.value - 34) / (sizes.value[0]?.width || 600)))
const scale = computed(() => Math.round(fit.value * zoom.value * 100) / 100)
const total = computed(() => found.value.reduce((sum, n) => sum + n, 0))

const drawn = new Map<number, Drawn>()
const waiting = new Map<number, Promise<void>>()
let opened = 0

watch(
  () => props.address,
  async (address) => {
    const mine = ++opened
    forget()
    void file.value?.destroy()
    file.value = null
    problem.value = ''
    sizes.value = []
    found.value = []
    textless.value = false
    page.value = 1
    try {
      const made = await openPdf(address)
      if (mine !== opened) return void made.destroy()
      const first = (await made.getPage(1)).getViewport({ scale: 1 })
      sizes.value = Array.from({ length: made.numPages }, () => ({ width: first.width, height: first.height }))
      file.value = made
      textless.value = !(await hasText(made))
    } catch (error) {
      if (mine !== opened) return
      const locked = error instanceof Error && error.name === 'PasswordException'
      problem.value = locked
        ? 'This PDF is locked with a password. Attach a copy without one.'
        : 'This PDF cannot be shown: it is damaged, or the server cannot be reached.'
    }
  },
  { immediate: true },
)
onBeforeUnmount(() => {
  opened++
  forget()
  void file.value?.destroy()
  file.value = null
})
/** What a file says of itself, or nothing if it was closed meanwhile, as when another report is chosen. */
async function asked<T>(from: PDFDocumentProxy, what: Promise<T>): Promise<T | null> {
  try {
    return await what
  } catch (error) {
    if (file.value !== from) return null
    throw error
  }
}
function forget() {
  for (const one of drawn.values()) one.cancel()
  drawn.clear()
  waiting.clear()
}
watch(scale, () => {
  forget()
  void nextTick(() => [...seen].forEach(draw))
})

const seen = new Set<number>()
const holders = ref<HTMLElement[]>([])
const numberOf = (element: Element) => Number((element as HTMLElement).dataset.page)
useIntersectionObserver(
  holders,
  (entries) => {
    for (const entry of entries) {
      const number = numberOf(entry.target)
      if (entry.isIntersecting) {
        seen.add(number)
        void draw(number)
      } else {
        seen.delete(number)
        drawn.get(number)?.cancel()
        drawn.delete(number)
        waiting.delete(number)
      }
    }
  },
  { root: scroller, rootMargin: '600px 0px' },
)
function draw(number: number): Promise<void> {
  const going = waiting.get(number)
  if (going) return going
  const work = (async () => {
    const from = file.value
    const holder = holders.value.find((holder) => numberOf(holder) === number)
    if (!from || !holder) return
    try {
      const page = await from.getPage(number)
      const { width: wide, height: high } = page.getViewport({ scale: 1 })
      sizes.value[number - 1] = { width: wide, height: high }
      drawn.set(number, await drawPage(page, holder, scale.value))
      underline(holder)
      light(holder)
      if (number === lit.value) lightQuote(holder)
    } catch {
      waiting.delete(number) // it was scrolled away, or zoomed, meanwhile
    }
  })()
  waiting.set(number, work)
  return work
}
function underline(holder: HTMLElement) {
  const layer = holder.querySelector('.pdf-text')
  if (!layer) return
  for (const term of props.terms) {
    const name = (term.supports ? 'for' : 'against') + (term.own ? ' own' : '')
    const free = findOn(layer, term.term, true).filter(
      (at) => !at.nodes.some(({ node }) => node.parentElement?.closest('mark')),
    )
    mark(free, name)
  }
}
watch(
  () => JSON.stringify(props.terms),
  () => {
    for (const holder of holders.value) {
      const layer = holder.querySelector('.pdf-text')
      for (const name of ['found', 'for', 'against']) if (layer) unmark(layer, name)
      underline(holder)
      light(holder)
    }
  },
)
function light(holder: HTMLElement) {
  const layer = holder.querySelector('.pdf-text')
  if (!layer) return
  unmark(layer, 'found')
  if (wanted.value.trim().length > 1) mark(findOn(layer, wanted.value, false), 'found')
}

/** The page on which the quote is lit. */
const lit = ref(0)
function lightQuote(holder: HTMLElement): HTMLElement | null {
  const layer = holder.querySelector('.pdf-text')
  if (!layer) return null
  unmark(layer, 'quoted')
  if (props.quote) mark(findQuote(layer, props.quote.text), 'quoted')
  return layer.querySelector<HTMLElement>('mark.quoted')
}
let sought = 0
watch(
  () => [file.value, props.quote?.text, props.quote?.page] as const,
  async ([from, text, wants]) => {
    const mine = ++sought
    lit.value = 0
    for (const holder of holders.value) {
      const layer = holder.querySelector('.pdf-text')
      if (layer) unmark(layer, 'quoted')
    }
    if (!from || !text) return
    await nextTick()
    const tried = wants && wants <= from.numPages ? await show(wants) : null
    if (mine !== sought) return
    if (tried) return emit('quoted', true)
    // the file may be another one than the quote was taken from
    const number = await asked(from, pageOfQuote(from, text))
    if (mine !== sought || file.value !== from) return
    emit('quoted', Boolean(number && (await show(number))))
  },
)
/** Light the quote on a page; what is lit, if it stands there. */
async function show(number: number): Promise<HTMLElement | null> {
  const holder = holders.value.find((holder) => numberOf(holder) === number)
  if (!holder) return null
  lit.value = number
  go(number)
  await draw(number)
  const mark = lightQuote(holder)
  if (mark) center(mark)
  return mark
}

function selected() {
  const selection = window.getSelection()
  const words = selection && !selection.isCollapsed && selection.rangeCount ? asOneLine(selection.toString()) : ''
  const from = selection?.anchorNode?.parentElement?.closest<HTMLElement>('.page-of')
  if (!words || !from || !scroller.value?.contains(from)) return emit('marked', '', 0)
  const to = selection?.focusNode?.parentElement?.closest<HTMLElement>('.page-of') ?? from
  emit('marked', words, Math.min(numberOf(from), numberOf(to)))
}

function scrolled() {
  const top = (scroller.value?.scrollTop ?? 0) + (scroller.value?.clientHeight ?? 0) / 3
  let number = 1
  for (const holder of holders.value) if (holder.offsetTop <= top) number = Math.max(number, numberOf(holder))
  page.value = number
}
function go(to: number) {
  const number = Math.min(sizes.value.length, Math.max(1, Math.round(to) || 1))
  const holder = holders.value.find((holder) => numberOf(holder) === number)
  if (holder && scroller.value) scroller.value.scrollTop = holder.offsetTop - 8
  page.value = number
}
/** Bring something to the middle of the pane; the page around it stays where it is. */
function center(element: HTMLElement) {
  const pane = scroller.value
  if (!pane) return
  const [at, within] = [element.getBoundingClientRect(), pane.getBoundingClientRect()]
  pane.scrollTop += at.top - within.top - (pane.clientHeight - at.height) / 2
  pane.scrollLeft += Math.max(0, at.right - within.right + 20)
}
let finding = 0
async function find() {
  const mine = ++finding
  const phrase = wanted.value
  found.value = []
  at.value = 0
  for (const holder of holders.value) light(holder)
  const from = file.value
  if (!from || phrase.trim().length < 2) return
  const counts = await asked(from, countIn(from, phrase))
  if (mine !== finding || !counts) return
  found.value = counts
  if (total.value) await step(1)
}
/** The next place of what is looked for, or the one before. */
async function step(by: number) {
  if (!total.value) return
  at.value = ((at.value - 1 + by + total.value) % total.value) + 1
  let rest = at.value
  const number = found.value.findIndex((n) => (rest -= n) <= 0) + 1
  const nth = rest + found.value[number - 1]! - 1
  const holder = holders.value.find((holder) => numberOf(holder) === number)
  if (!holder) return
  go(number)
  await draw(number)
  scroller.value?.querySelectorAll('mark.here').forEach((one) => one.classList.remove('here'))
  const marks = holder.querySelectorAll<HTMLElement>('mark.found')
  const mark = marks[Math.min(nth, marks.length - 1)]
  if (!mark) return
  mark.classList.add('here')
  center(mark)
}
useKeys({
  '.': () => go(page.value + 1),
  ',': () => go(page.value - 1),
  '+': () => (zoom.value = Math.min(4, zoom.value * 1.15)),
  '-': () => (zoom.value = Math.max(0.4, zoom.value / 1.15)),
  '/': () => finder.value?.focus(),
})
function keyed(event: KeyboardEvent) {
  if (event.key === 'Enter') void (found.value.length ? step(event.shiftKey ? -1 : 1) : find())
  else if (event.key === 'Escape') scroller.value?.focus()
  else return
  event.preventDefault()
}
</script>

<template>
  <section class="reader" :aria-label="`PDF: ${name}`">
    <div class="bar-of small">
      <span class="row"
        ><button class="link" :disabled="page <= 1" @click="go(page - 1)"><kbd>,</kbd> before</button>
        <label
          >Page
          <input
            class="page num"
            inputmode="numeric"
            :value="page"
            @change="go(Number(($event.target as HTMLInputElement).value))"
        /></label>
        of {{ sizes.length }}
        <button class="link" :disabled="page >= sizes.length" @click="go(page + 1)">next <kbd>.</kbd></button></span
      >
      <span class="row"
        ><button class="link" aria-label="Smaller" @click="zoom = Math.max(0.4, zoom / 1.15)">−</button>
        <button class="link" :aria-label="`Zoom ${Math.round(100 * zoom)} per cent; fit the width`" @click="zoom = 1">
          {{ Math.round(100 * zoom) }} %
        </button>
        <button class="link" aria-label="Larger" @click="zoom = Math.min(4, zoom * 1.15)">+</button></span
      >
      <span class="row push"
        ><input
          ref="finder"
          v-model="wanted"
          type="search"
          class="find"
          placeholder="Find in the PDF"
          aria-label="Find in the PDF"
          @keydown="keyed"
          @input="find"
        />
        <kbd>/</kbd>
        <span v-if="wanted.trim().length > 1" role="status">{{
          total ? `${at} of ${total}` : found.length ? 'not found' : ''
        }}</span></span
      >
    </div>
    <p v-if="problem" class="pad bad" role="alert">{{ problem }}</p>
    <p v-else-if="!file" class="pad soft" role="status">Opening {{ name }} …</p>
    <p v-if="textless" class="odd small pad note">
      This PDF holds pictures of its {{ plural(sizes.length, 'page') }} and no text: terms cannot be underlined, nothing
      can be found or charted from it. Have its text recognised, and attach it again.
    </p>
    <div
      ref="scroller"
      class="pages"
      role="region"
      tabindex="0"
      :aria-label="`Pages of ${name}`"
      @keydown.up.stop
      @keydown.down.stop
      @mouseup="selected"
      @keyup="selected"
      @scroll.passive="scrolled"
    >
      <div
        v-for="(size, k) in sizes"
        :key="k"
        ref="holders"
        class="page-of"
        :data-page="k + 1"
        :style="{ width: `${size.width * scale}px`, height: `${size.height * scale}px` }"
      />
    </div>
  </section>
</template>

<style scoped>
.reader {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-height: 0;
}
.bar-of {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  align-items: center;
  padding: 6px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.page,
.find {
  border: 1px solid var(--ks-hair);
  border-radius: 3px;
  padding: 1px 6px;
  background: var(--ks-sheet);
  color: inherit;
}
.page {
  width: 46px;
}
.find {
  width: 150px;
}
.note {
  border-bottom: 1px solid var(--ks-hair);
}
.pages {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding: 8px;
  background: var(--ks-wash);
}
.page-of {
  position: relative;
  margin: 0 auto 10px;
  background: #fff;
  outline: 1px solid var(--ks-hair);
}
.page-of :deep(canvas) {
  width: 100%;
  height: 100%;
  display: block;
}
.page-of :deep(.pdf-text) {
  position: absolute;
  inset: 0;
  overflow: clip;
  text-align: initial;
  line-height: 1;
  transform-origin: 0 0;
  caret-color: CanvasText;
  forced-color-adjust: none;
  --min-font-size: 1;
  --text-scale-factor: calc(var(--total-scale-factor) * var(--min-font-size));
  --min-font-size-inv: calc(1 / var(--min-font-size));
}
.page-of :deep(.pdf-text :is(span, br)) {
  color: transparent;
  position: absolute;
  white-space: pre;
  cursor: text;
  transform-origin: 0% 0%;
}
.page-of :deep(.pdf-text > :not(.markedContent)),
.page-of :deep(.pdf-text .markedContent span:not(.markedContent)) {
  --font-height: 0;
  font-size: calc(var(--text-scale-factor) * var(--font-height));
  --scale-x: 1;
  --rotate: 0deg;
  transform: rotate(var(--rotate)) scaleX(var(--scale-x)) scale(var(--min-font-size-inv));
}
.page-of :deep(.pdf-text .markedContent) {
  display: contents;
}
.page-of :deep(mark) {
  color: transparent;
  background: none;
}
.page-of :deep(mark.for) {
  text-decoration: underline solid #a8502b 2px;
}
.page-of :deep(mark.against) {
  text-decoration: underline wavy #5e6872 1.5px;
}
.page-of :deep(mark.for.own) {
  text-decoration: underline double #a8502b 1.5px;
}
.page-of :deep(mark.against.own) {
  text-decoration: underline dotted #5e6872 3px;
}
.page-of :deep(mark.quoted) {
  background: rgb(168 80 43 / 16%);
  border-bottom: 2px solid #a8502b;
}
.page-of :deep(mark.found) {
  background: rgb(214 158 46 / 35%);
}
.page-of :deep(mark.here) {
  background: rgb(214 158 46 / 65%);
  outline: 2px solid #a8502b;
}
</style>
