import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { createApp, defineComponent, h, nextTick, ref, type App } from 'vue'
import { useLive } from '@/frame/live'

// The server's stream of words, under the test's control.
class Stream {
  static all: Stream[] = []
  closed = false
  onerror?: () => void
  private hear: ((event: MessageEvent<string>) => void)[] = []
  constructor(readonly url: string) {
    Stream.all.push(this)
  }
  addEventListener(_: string, act: (event: MessageEvent<string>) => void) {
    this.hear.push(act)
  }
  close() {
    this.closed = true
  }
  say(word: string) {
    this.hear.forEach((act) => act({ data: word } as MessageEvent<string>))
  }
}

const review = ref(0)
let app: App
let live: ReturnType<typeof useLive>
let stale: string[]

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('EventSource', Stream)
  Stream.all = []
  stale = []
  review.value = 4
  const client = new QueryClient()
  vi.spyOn(client, 'invalidateQueries').mockImplementation(
    async (it) => void stale.push(it ? (it as { queryKey: string[] }).queryKey[0]! : 'everything'),
  )
  app = createApp(defineComponent({ setup: () => ((live = useLive(review)), () => h('div')) })).use(VueQueryPlugin, {
    queryClient: client,
  })
  app.mount(document.createElement('div'))
})
afterEach(() => {
  app.unmount()
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

describe('word of changes', () => {
  it('makes what it touches stale, once for many words', () => {
    Stream.all[0]!.say('screen')
    Stream.all[0]!.say('screen')
    Stream.all[0]!.say('ranking')
    expect(stale).toEqual([])
    vi.advanceTimersByTime(1700)
    expect(stale.filter((key) => key === 'figures')).toHaveLength(1)
    vi.advanceTimersByTime(9000)
    expect(stale.filter((key) => key === 'queue')).toHaveLength(1)
    expect(stale).not.toContain('codebook')
  })

  it('looks at what colleagues do all the time once in a while, however often they do it', () => {
    for (let k = 0; k < 200; k++) {
      Stream.all[0]!.say('screen')
      vi.advanceTimersByTime(100)
    }
    expect(stale.filter((key) => key === 'figures').length).toBeGreaterThan(9)
    expect(stale.filter((key) => key === 'figures').length).toBeLessThan(40)
    expect(stale.filter((key) => key === 'records').length).toBeLessThan(5)
  })

  it('looks at everything again when it is not known what was said meanwhile', () => {
    Stream.all[0]!.say('missed')
    vi.advanceTimersByTime(2100)
    expect(stale).toContain('everything')
  })

  it('refreshes the figures for a word that is new to this page', () => {
    Stream.all[0]!.say('something later')
    vi.advanceTimersByTime(200)
    expect(stale).toEqual(['figures'])
  })

  it('follows the review that is open, and none elsewhere', async () => {
    expect(Stream.all[0]!.url).toBe('/api/reviews/4/live')
    review.value = 5
    await nextTick()
    expect(Stream.all.map((it) => it.closed)).toEqual([true, false])
    review.value = 0
    await nextTick()
    expect(Stream.all.every((it) => it.closed)).toBe(true)
    expect(Stream.all).toHaveLength(2)
  })

  it('says when it is cut off, and comes back by itself', () => {
    Stream.all[0]!.onerror!()
    expect(live.connected.value).toBe(false)
    vi.advanceTimersByTime(3100)
    Stream.all[1]!.say('hello')
    expect(live.connected.value).toBe(true)
  })
})
