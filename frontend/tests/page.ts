// A view in front of somebody, with a server that answers as the test says and remembers what it was asked.
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp, h, nextTick, type App, type Component } from 'vue'
import { createMemoryHistory, createRouter, type Router } from 'vue-router'

type Answer = unknown | ((body: unknown) => unknown)
export interface Asked {
  what: string
  body: unknown
}

/** What a server says when it refuses. */
export class Refused {
  constructor(
    readonly status: number,
    readonly message: string,
    readonly details: object = {},
  ) {}
}

let answers: Record<string, Answer> = {}
let asked: Asked[] = []
// the client takes hold of fetch when it is loaded, so this stands in for it before
globalThis.fetch = (async (request: Request) => {
  const what = `${request.method} ${new URL(request.url).pathname.replace(/^\/api/, '')}`
  const text = await request.text()
  const body = text ? JSON.parse(text) : undefined
  asked.push({ what, body })
  if (!(what in answers))
    return new Response(JSON.stringify({ message: `nothing answers ${what}` }), {
      status: 404,
      headers: { 'content-type': 'application/json' },
    })
  const said = answers[what]
  const it = typeof said === 'function' ? await (said as (body: unknown) => unknown)(body) : said
  if (it instanceof Refused)
    return new Response(JSON.stringify({ message: it.message, details: it.details }), {
      status: it.status,
      headers: { 'content-type': 'application/json' },
    })
  return it === undefined
    ? new Response(null, { status: 204, headers: { 'content-length': '0' } })
    : new Response(JSON.stringify(it), { headers: { 'content-type': 'application/json' } })
}) as typeof fetch

// what the browser has and happy-dom has not
Object.assign(globalThis, {
  visualViewport: Object.assign(new EventTarget(), { offsetLeft: 0, offsetTop: 0, width: 1280, height: 800, scale: 1 }),
})
const { fields } = await import('@/common/fields')
const { vuetify } = await import('@/theme') // loaded with the file, so that no test's time is spent on it
let shown: App | undefined

export interface Page {
  box: HTMLElement
  router: Router
  asked: (what: string) => unknown[]
  answers: Record<string, Answer>
  text: () => string
  settled: () => Promise<void>
  click: (name: string) => Promise<void>
  press: (key: string, target?: EventTarget) => Promise<void>
  type: (label: string, text: string) => Promise<void>
  choose: (label: string, title: string) => Promise<void>
  leave: (label: string) => Promise<void>
  field: (label: string) => HTMLInputElement | HTMLTextAreaElement
  button: (name: string) => HTMLButtonElement | undefined
}

/** Show ``component`` with ``props`` at an address; ``told`` are answers, as in ``{ 'GET /reviews/4/seeds': … }``. */
export async function page(
  component: Component,
  address: string,
  told: Record<string, Answer>,
  props: Record<string, unknown> = {},
): Promise<Page> {
  shown?.unmount()
  answers = told
  asked = []
  document.body.innerHTML = '<div id="view-actions"></div><div id="app"></div>'
  const View = { render: () => h(component, props) }
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [
      { path: '/reviews/:review(\\d+)/gather/files/:batch(\\d+)', component: View },
      { path: '/reviews/:review(\\d+)/pool/:analysis(\\d+)', component: View },
      { path: '/reviews/:review(\\d+)/:rest(.*)*', component: View },
      { path: '/:rest(.*)*', component: View },
    ],
  })
  await router.push(address)
  const client = new QueryClient({ defaultOptions: { queries: { retry: false, refetchInterval: false } } })
  const app = createApp({ render: () => h(View) })
    .use(router)
    .use(vuetify)
    .use(fields)
    .use(VueQueryPlugin, { queryClient: client })
  app.mount('#app')
  shown = app
  const settled = async () => {
    for (let k = 0; k < 8; k++) {
      await new Promise((done) => setTimeout(done, 5))
      await nextTick()
    }
  }
  const named = (it: Element) => (it.getAttribute('aria-label') ?? it.textContent ?? '').replace(/\s+/g, ' ').trim()
  const button = (name: string) =>
    [...document.body.querySelectorAll<HTMLButtonElement>('button, a')].find((it) => named(it).startsWith(name))
  const field = (label: string, kind = 'input, textarea'): HTMLInputElement | HTMLTextAreaElement => {
    const found = [...document.body.querySelectorAll<HTMLInputElement | HTMLTextAreaElement>(kind)].find((it) => {
      const words = [...document.body.querySelectorAll(`label[for="${it.id}"]`)].map((label) => label.textContent ?? '')
      return [...words, it.getAttribute('aria-label') ?? ''].some((text) => text.trim().startsWith(label))
    })
    if (!found) throw new Error(`no field “${label}”`)
    return found
  }
  await settled()
  return {
    box: document.body,
    router,
    answers: told,
    settled,
    field,
    button,
    asked: (what) => asked.filter((it) => it.what === what).map((it) => it.body),
    text: () => (document.body.textContent ?? '').replace(/\s+/g, ' '),
    click: async (name) => {
      const it = button(name)
      if (!it)
        throw new Error(
          `no button “${name}” among: ${[...document.body.querySelectorAll('button, a')].map(named).join(' | ')}`,
        )
      it.click()
      await settled()
    },
    press: async (key, target = document.body) => {
      target.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))
      await settled()
    },
    type: async (label, text) => {
      const it = field(label)
      it.value = text
      it.dispatchEvent(new Event('input', { bubbles: true }))
      await settled()
    },
    choose: async (label, title) => {
      const it = field(label, 'select') as unknown as HTMLSelectElement
      it.selectedIndex = [...it.options].findIndex((one) => one.text.trim() === title)
      it.dispatchEvent(new Event('change', { bubbles: true }))
      await settled()
    },
    leave: async (label) => {
      field(label).dispatchEvent(new Event('blur'))
      await settled()
    },
  }
}

/** A protocol as the server tells it, for somebody in this role. */
export const protocol = (role: string, more: Record<string, unknown> = {}) => ({
  id: 4,
  title: 'Hives',
  question: 'Do wraps help?',
  role,
  elements: [],
  criteria: [],
  planned_sources: [],
  languages: '',
  year_from: null,
  year_to: null,
  ...more,
})

/** Figures that add up, with some of them given. */
export const figures = (more: Record<string, unknown> = {}) => ({
  seeds: 0,
  found: 0,
  copies: 0,
  aside: 0,
  records: 0,
  questions: 0,
  open: 0,
  excluded: 0,
  sought: 0,
  missing: 0,
  assessed: 0,
  reports_excluded: 0,
  included: 0,
  studies: 0,
  charted: 0,
  decided: 0,
  second_open: 0,
  unsure: 0,
  adds_up: true,
  checks: [],
  ...more,
})

/** A record as the server tells it. */
export const record = (more: Record<string, unknown> = {}) => ({
  kind: 'article',
  title: 'Wraps keep colonies warm',
  authors: ['Orsel, Tamsin'],
  year: 1998,
  date: '',
  journal: 'Annals of Made-up Apiculture',
  journal_short: '',
  volume: '5',
  issue: '',
  pages: '50–58',
  doi: '',
  accession: '',
  issn: '',
  abstract: '',
  language: '',
  keywords: [],
  url: '',
  publisher: '',
  references: [],
  note: '',
  extra: [],
  ...more,
})

/** What the evidence table says of its values, a list for each. */
const VALUE_PARTS = [
  'study', 'item', 'arm', 'outcome', 'time', 'text', 'shown', 'number', 'quoted', 'how', 'model', 'unfit', 'read',
] // prettier-ignore
/** Some values, as the evidence table says them. */
export const valuesOf = (...values: Record<string, unknown>[]) =>
  Object.fromEntries(VALUE_PARTS.map((part) => [part, values.map((value) => value[part] ?? null)]))
