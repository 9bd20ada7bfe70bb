import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import { messages } from '@/common/messages'
import { useDesk } from '@/stages/screen/desk'
import { mounted, type Mounted } from './mounted'

// The client takes its fetch when it is loaded.
const wire = vi.hoisted(() => {
  const held = { answer: undefined as unknown as (request: Request) => Promise<Response> }
  globalThis.fetch = ((request: Request) => held.answer(request)) as typeof fetch
  return held
})

// A server with a pile of records: hands out the open ones in their order, as the real one does.
const server = {
  pile: [] as number[],
  decided: new Map<number, string>(),
  order: [] as string[],
  broken: false,
  away: false,
  mute: false, // hands out nothing, and takes decisions still
  slow: undefined as Promise<void> | undefined,
}
const sheet = (id: number) => ({ id, first: server.decided.get(id) ?? 'open', second: 'open', rank: 1 })

async function answer(input: Request): Promise<Response> {
  const path = new URL(input.url, 'http://here').pathname
  const body = input.method === 'POST' ? JSON.parse((await input.text()) || '{}') : {}
  const json = (data: unknown, status = 200) =>
    new Response(JSON.stringify(data), { status, headers: { 'content-type': 'application/json' } })
  server.order.push(`${input.method} ${path.replace('/api/reviews/1/', '')}`)
  if (input.method === 'DELETE') return new Response(null, { status: 204 })
  if (path.endsWith('/desk') && server.mute) return json({ message: 'Just starting.' }, 503)
  if (path.endsWith('/desk'))
    return json(
      server.pile
        .filter((id) => !server.decided.has(id) && !body.skip.includes(id))
        .slice(0, body.limit)
        .map(sheet),
    )
  if (path.endsWith('/decisions')) {
    await server.slow
    if (server.away) throw new TypeError('Failed to fetch')
    if (server.broken) return json({ message: 'This review is closed.' }, 409)
    server.decided.set(body.record, body.verdict)
    return json({})
  }
  if (path.endsWith('/take-back')) {
    const record = body.record ?? [...server.decided.keys()].at(-1)!
    server.decided.delete(record)
    return json({ record })
  }
  return json(sheet(Number(path.split('/').at(-1))))
}

let page: Mounted<ReturnType<typeof useDesk>>
const saved = vi.fn()
const settle = async () => {
  for (let k = 0; k < 20; k++) await new Promise((done) => setTimeout(done, 0))
  await nextTick()
}

beforeEach(async () => {
  Object.assign(server, {
    pile: Array.from({ length: 12 }, (_, k) => k + 1),
    decided: new Map(),
    order: [],
    broken: false,
    away: false,
    mute: false,
    slow: undefined,
  })
  wire.answer = answer
  messages.value = []
  saved.mockClear()
  page = await mounted(() => useDesk(ref(1), 1, ref({}), saved))
  await page.it.next()
  await settle()
})
afterEach(() => page.app.unmount())

describe('the desk', () => {
  it('hands out the records in their order, each once', async () => {
    const seen: number[] = []
    while (page.it.shown.value) {
      seen.push(page.it.shown.value.id)
      page.it.decide({ verdict: 'exclude', criterion: 3 })
      await settle()
    }
    expect(seen).toEqual(server.pile)
    expect([...server.decided.keys()]).toEqual(server.pile)
    expect(page.it.empty.value).toBe(true)
    expect(saved).toHaveBeenCalledTimes(12)
  })

  it('shows the next record in the same moment, before the decision has travelled', async () => {
    let go!: () => void
    server.slow = new Promise((done) => (go = done))
    page.it.decide({ verdict: 'include' })
    expect(page.it.shown.value?.id).toBe(2)
    page.it.decide({ verdict: 'include' })
    page.it.decide({ verdict: 'unsure' })
    expect(page.it.shown.value?.id).toBe(4)
    await settle()
    expect(server.decided.size).toBe(0)
    expect([...page.it.travelling]).toEqual([1, 2, 3])
    go()
    await settle()
    expect([...server.decided]).toEqual([
      [1, 'include'],
      [2, 'include'],
      [3, 'unsure'],
    ])
    expect(page.it.travelling.size).toBe(0)
  })

  it('says what the server refused, and hands that record out again', async () => {
    server.broken = true
    page.it.decide({ verdict: 'include' })
    await settle()
    expect(messages.value[0]).toMatchObject({ text: 'This review is closed.', bad: true })
    server.broken = false
    await page.it.restart()
    expect(page.it.shown.value?.id).toBe(1)
  })

  it('takes the last decision back after it has travelled, and keeps what was shown for later', async () => {
    page.it.decide({ verdict: 'include' })
    await page.it.takeBack()
    expect(page.it.shown.value?.id).toBe(1)
    expect(server.decided.size).toBe(0)
    expect(server.order.indexOf('POST decisions')).toBeLessThan(server.order.indexOf('POST decisions/take-back'))
    page.it.decide({ verdict: 'exclude', criterion: 1 })
    expect(page.it.shown.value?.id).toBe(2)
  })

  it('takes any of one’s own decisions back', async () => {
    for (const verdict of ['include', 'unsure', 'unsure'] as const) page.it.decide({ verdict })
    await settle()
    await page.it.takeBack(2)
    expect(page.it.shown.value?.id).toBe(2)
    expect([...server.decided.keys()]).toEqual([1, 3])
  })

  it('comes back to what was on the screen before a decision was taken back, whatever the order is by then', async () => {
    page.it.decide({ verdict: 'include' })
    await page.it.takeBack()
    server.pile = [9, 8, 1, 2]
    await page.it.renew()
    page.it.decide({ verdict: 'unsure' })
    expect(page.it.shown.value?.id).toBe(2)
    page.it.decide({ verdict: 'unsure' })
    expect(page.it.shown.value?.id).toBe(9)
  })

  it('follows a new order without taking away what is being read', async () => {
    server.pile = [9, 8, 1, 2]
    await page.it.renew()
    expect(page.it.shown.value?.id).toBe(1)
    page.it.decide({ verdict: 'exclude' })
    expect(page.it.shown.value?.id).toBe(9)
  })

  it('does not bring back a record that was decided on while it was looked at again', async () => {
    const looking = page.it.again()
    page.it.decide({ verdict: 'include' })
    await looking
    await settle()
    expect(page.it.shown.value?.id).toBe(2)
  })

  it('shows a record that was asked for, then goes on where it was', async () => {
    await page.it.show(7)
    expect(page.it.shown.value?.id).toBe(7)
    page.it.decide({ verdict: 'include' })
    expect(page.it.shown.value?.id).toBe(1)
  })

  it('keeps decisions while the server is away, and sends them when it is back', async () => {
    server.away = true
    page.it.decide({ verdict: 'include' })
    page.it.decide({ verdict: 'exclude', criterion: 3 })
    await settle()
    expect(page.it.unsent.value).toBe(2)
    expect(messages.value).toEqual([])
    expect(JSON.parse(localStorage.getItem('kettle-unsent-0-1-1')!)).toHaveLength(2)
    const leaving = new Event('beforeunload', { cancelable: true })
    window.dispatchEvent(leaving)
    expect(leaving.defaultPrevented).toBe(true)
    await page.it.takeBack() // of one that has not left: without the network
    expect(page.it.shown.value?.id).toBe(2)
    page.it.decide({ verdict: 'unsure' })
    server.away = false
    window.dispatchEvent(new Event('online'))
    await settle()
    expect([...server.decided]).toEqual([
      [1, 'include'],
      [2, 'unsure'],
    ])
    expect(page.it.away.value).toBe(false)
    expect(localStorage.getItem('kettle-unsent-0-1-1')).toBeNull()
  })

  it('looks for the server again by itself where it was away and nothing waits to be sent', async () => {
    server.mute = true
    page.it.decide({ verdict: 'include' })
    await settle()
    await page.it.renew()
    expect([page.it.away.value, page.it.unsent.value, messages.value]).toEqual([true, 0, []])
    page.it.decide({ verdict: 'include' })
    await settle()
    expect([...server.decided.keys()]).toEqual([1])
    server.mute = false
    vi.useFakeTimers()
    window.dispatchEvent(new Event('online'))
    await vi.advanceTimersByTimeAsync(5000)
    vi.useRealTimers()
    expect([...server.decided.keys()]).toEqual([1, 2])
    expect(page.it.away.value).toBe(false)
  })

  it('is not away any more where the server is back and refuses', async () => {
    server.away = true
    page.it.decide({ verdict: 'include' })
    await settle()
    expect(page.it.away.value).toBe(true)
    Object.assign(server, { away: false, broken: true })
    window.dispatchEvent(new Event('online'))
    await settle()
    expect([page.it.away.value, page.it.unsent.value]).toEqual([false, 0])
    expect(messages.value[0]!.text).toBe('This review is closed.')
  })

  it('sends what an earlier page left unsent', async () => {
    server.away = true
    page.it.decide({ verdict: 'include' })
    await settle()
    page.app.unmount()
    server.away = false
    page = await mounted(() => useDesk(ref(1), 1, ref({}), saved))
    await settle()
    expect([...server.decided]).toEqual([[1, 'include']])
  })

  it('lets go of its records when the page is left', async () => {
    page.app.unmount()
    await settle()
    expect(server.order.at(-1)).toBe('DELETE desk')
  })
})
