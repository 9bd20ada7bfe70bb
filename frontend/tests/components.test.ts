import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { createApp, h, nextTick, ref, type Component } from 'vue'
import MarkedText from '@/common/MarkedText.vue'
import TypedBox from '@/common/TypedBox.vue'
import VerdictMark from '@/common/VerdictMark.vue'

function drawn(component: Component, props: Record<string, unknown>): HTMLElement {
  const box = document.createElement('div')
  createApp(component, props).mount(box)
  return box
}

describe('text with its terms marked', () => {
  it('marks terms for and against, and keeps every letter', () => {
    const text = 'Winter losses of wasps'
    const box = drawn(MarkedText, {
      text,
      marks: [
        { begin: 0, end: 6, supports: true },
        { begin: 17, end: 22, supports: false },
      ],
    })
    expect(box.textContent).toBe(text)
    expect([...box.querySelectorAll('mark')].map((it) => [it.textContent, it.className])).toEqual([
      ['Winter', 'for'],
      ['wasps', 'against'],
    ])
  })

  it('counts letters as the server does, beyond the first plane too', () => {
    const box = drawn(MarkedText, { text: '𝛼𝛽 winter', marks: [{ begin: 3, end: 9, supports: true }] })
    expect(box.querySelector('mark')?.textContent).toBe('winter')
  })

  it('begins a line with each part of a structured abstract, and gives the team’s own words shapes of their own', () => {
    const text = 'AIM: To count hives. RESULTS: Forty hives.'
    const box = drawn(MarkedText, {
      text,
      marks: [{ begin: 14, end: 19, supports: true, own: true }],
      parts: [
        { begin: 0, end: 3 },
        { begin: 21, end: 28 },
      ],
    })
    expect(box.textContent).toBe(text)
    expect([...box.querySelectorAll('b.label')].map((it) => it.textContent)).toEqual(['AIM', 'RESULTS'])
    expect(box.querySelectorAll('br')).toHaveLength(1)
    expect(box.querySelector('br')?.nextElementSibling?.textContent).toBe('RESULTS')
    expect(box.querySelector('mark')?.className).toBe('for own')
  })

  it('shows mark-up as letters', () => {
    const box = drawn(MarkedText, { text: '<img src=x onerror=alert(1)>', marks: [] })
    expect(box.querySelector('img')).toBeNull()
    expect(box.textContent).toBe('<img src=x onerror=alert(1)>')
  })
})

describe('a verdict', () => {
  it('has a shape of its own before it has a colour, and a word', () => {
    const shapes = ['include', 'exclude', 'unsure', 'open'].map((verdict) => {
      const svg = drawn(VerdictMark, { verdict }).querySelector('svg')!
      svg.querySelectorAll('*').forEach((it) => ['fill', 'stroke'].forEach((colour) => it.removeAttribute(colour)))
      svg.querySelector('title')!.remove()
      return [svg.getAttribute('aria-label'), svg.innerHTML] as const
    })
    expect(shapes.map(([word]) => word)).toEqual(['Included', 'Excluded', 'Unsure', 'Not decided'])
    expect(new Set(shapes.map(([, shape]) => shape)).size).toBe(4)
  })
})

describe('a box that filters while somebody types', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())

  /** The box with what the address says, what it has told, and somebody who types into it. */
  function mounted(digits = false) {
    const said = ref('')
    const told: string[] = []
    const place = document.createElement('div')
    createApp({
      render: () => h(TypedBox, { said: said.value, digits, onTyped: (text: string) => told.push(text) }),
    }).mount(place)
    const box = place.querySelector('input')!
    const type = (text: string) => {
      box.value = text
      box.dispatchEvent(new Event('input'))
    }
    return { said, told, box, type }
  }

  it('keeps what is typed while the answer to its beginning comes, and gives way to what comes from elsewhere', async () => {
    const { said, told, box, type } = mounted()
    type('ov')
    type('ove')
    await vi.advanceTimersByTimeAsync(200)
    type('overw')
    said.value = 'ove'
    await nextTick()
    expect(box.value).toBe('overw')
    await vi.advanceTimersByTimeAsync(200)
    expect(told).toEqual(['ove', 'overw'])
    said.value = 'overw'
    await nextTick()
    said.value = '' // Clear
    await nextTick()
    expect(box.value).toBe('')
    type('ov')
    type('')
    await vi.advanceTimersByTimeAsync(200)
    expect(told).toEqual(['ove', 'overw'])
  })

  it('takes nothing but digits where a whole number is asked for', async () => {
    const { told, box, type } = mounted(true)
    for (const text of ['many', '19x8']) {
      type(text)
      await vi.advanceTimersByTimeAsync(200)
    }
    expect(box.value).toBe('198')
    expect(told).toEqual(['198'])
  })
})
