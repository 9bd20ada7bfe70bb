// What the program says in passing: errors, and offers to undo.
import { reactive } from 'vue'
import { Refusal } from '@/api/client'

interface Message {
  text: string
  bad: boolean
  undo?: () => Promise<unknown>
}

export const messages = reactive<{ current: Message | null; count: number }>({ current: null, count: 0 })

export function say(text: string, undo?: () => Promise<unknown>) {
  messages.current = { text, bad: false, undo }
  messages.count++
}

export function complain(error: unknown) {
  const text =
    error instanceof Refusal
      ? error.message
      : 'Something unforeseen happened on this page. Load it again; nothing on the server was lost.'
  if (!(error instanceof Refusal)) console.error(error)
  messages.current = { text, bad: true }
  messages.count++
}

/** Do something; say what went wrong when it fails. True when it worked. */
export async function attempt(work: () => Promise<unknown>): Promise<boolean> {
  try {
    await work()
    return true
  } catch (error) {
    complain(error)
    return false
  }
}
