import { describe, expect, it, vi } from 'vitest'
import { got, Refusal } from '@/api/client'
import { attempt, messages, say } from '@/common/messages'

const response = (status: number) => new Response(null, { status })

describe('answers of the server', () => {
  it('give their data', async () => {
    expect(await got(Promise.resolve({ data: 5, response: response(200) }))).toBe(5)
  })

  it('are refused with the server’s own sentence', async () => {
    const refused = got(
      Promise.resolve({ error: { message: 'No such review.', details: { review: 9 } }, response: response(404) }),
    )
    await expect(refused).rejects.toMatchObject({ message: 'No such review.', status: 404, details: { review: 9 } })
  })

  it('say what to do when there is no sentence, or no server', async () => {
    await expect(got(Promise.resolve({ response: response(502) }))).rejects.toThrow('(502)')
    await expect(got(Promise.reject(new TypeError('offline')))).rejects.toThrow('Nothing typed here is lost')
  })
})

describe('messages', () => {
  it('offer the undo that goes with them', async () => {
    const undo = vi.fn(async () => undefined)
    say('1 record set aside', undo)
    await messages.value[0]?.undo?.()
    expect(undo).toHaveBeenCalledOnce()
    expect(messages.value[0]).toMatchObject({ text: '1 record set aside', bad: false })
  })

  it('show a refusal as it is, and anything else as our fault', async () => {
    expect(await attempt(async () => undefined)).toBe(true)
    expect(await attempt(() => Promise.reject(new Refusal('The title is missing.', 422)))).toBe(false)
    expect(messages.value[0]).toMatchObject({ text: 'The title is missing.', bad: true })
    const shown = vi.spyOn(console, 'error').mockImplementation(() => undefined)
    expect(await attempt(() => Promise.reject(new Error('x is undefined')))).toBe(false)
    expect(messages.value[0]?.text).toContain('Something unforeseen')
    expect(messages.value).toHaveLength(3)
    say('Joined.', undefined, 'pair')
    say('Left apart.', undefined, 'pair')
    expect(messages.value.map((it) => it.text).slice(0, 2)).toEqual([
      'Left apart.',
      expect.not.stringContaining('Joined'),
    ])
    expect(shown).toHaveBeenCalledOnce()
    shown.mockRestore()
  })
})
