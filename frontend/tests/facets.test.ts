// The filter: what divides a list is shown with its count; what is chosen stays in sight and can be let go.
import { describe, expect, it } from 'vitest'
import { createApp } from 'vue'
import { createVuetify } from 'vuetify'
import Facets from '@/common/Facets.vue'
import { FILTER_KEYS, type Filter } from '@/common/filter'

const none = Object.fromEntries(FILTER_KEYS.map((key) => [key, ''])) as unknown as Filter
const facets = {
  states: [
    { value: 'open', n: 1200 },
    { value: 'exclude', n: 3 },
  ],
  people: [
    { value: '7:Odile Marsh', n: 4 },
    { value: '8:Rudd: Brask', n: 2 },
  ],
  languages: [
    { value: 'English', n: 9 },
    { value: '', n: 2 },
  ],
  kinds: [{ value: 'article', n: 11 }],
  descriptors: [
    { value: 'bees', n: 5 },
    { value: 'winter', n: 1 },
  ],
}
function shown(filter: Partial<Filter> = {}, verdicts = true) {
  const box = document.createElement('div')
  const set: Partial<Filter>[] = []
  const props = {
    filter: { ...none, ...filter },
    facets,
    verdicts,
    total: 1,
    onSet: (it: Partial<Filter>) => set.push(it),
  }
  const app = createApp(Facets, props)
  app.use(createVuetify())
  app.mount(box)
  const text = (it: Element) => (it.textContent ?? '').replace(/\s+/g, ' ').trim()
  const button = (name: string) => [...box.querySelectorAll('button')].find((it) => text(it).startsWith(name))!
  return { text: text(box), button, set }
}

describe('The filter', () => {
  it('shows what divides the list, in words, with counts', () => {
    const it = shown()
    expect(it.text).toContain('1 fits')
    for (const [name, n] of [
      ['Not decided', '1,200'],
      ['Odile Marsh', '4'],
      ['Rudd: Brask', '2'],
      ['not said', '2'],
      ['bees', '5'],
    ]) {
      expect(it.button(name!).textContent).toContain(n)
    }
    expect(it.text).not.toContain('Kind')
  })

  it('sets a value, and lets it go when it is chosen again', () => {
    const it = shown()
    it.button('Odile Marsh').click()
    expect(it.set).toEqual([{ person: '7' }])
    const chosen = shown({ person: '7' })
    expect(chosen.button('Odile Marsh').getAttribute('aria-pressed')).toBe('true')
    chosen.button('Odile Marsh').click()
    expect(chosen.set).toEqual([{ person: '' }])
  })

  it('keeps a chosen value in sight though it alone is left, and knows nobody who decided on copies', () => {
    expect(shown({ kind: 'article' }).text).toContain('Journal article')
    expect(shown({}, false).text).not.toContain('Odile Marsh')
  })
})
