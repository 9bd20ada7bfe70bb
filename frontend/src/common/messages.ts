// What the program says in passing: errors, and offers to undo. A message does not push out an earlier one.
import { ref } from 'vue'
import { Refusal } from '@/api/client'

export interface Message {
  id: number
  text: string
  bad: boolean
  undo?: () => Promise<unknown>
  about?: string
}

const MOST = 3
/** The newest first. */
export const messages = ref<Message[]>([])
let last = 0

function show(message: Omit<Message, 'id'>) {
  const id = ++last
  const others = messages.value.filter((one) => !one.about || one.about !== message.about)
  messages.value = [{ ...message, id }, ...others].slice(0, MOST)
  setTimeout(() => close(id), message.bad || message.undo ? 12_000 : 8_000)
}

export function close(id: number) {
  messages.value = messages.value.filter((message) => message.id !== id)
}

/** What was said about something holds no longer. */
export function unsay(about: string) {
  messages.value = messages.value.filter((message) => message.about !== about)
}

/** `about`: what takes the place of an earlier message about the same, as where only the last deed can be undone. */
export function say(text: string, undo?: () => Promise<unknown>, about?: string) {
  show({ text, bad: false, undo, about })
}

/** What to say of a failure. */
export const sentenceOf = (error: unknown) =>
  error instanceof Refusal
    ? error.message
    : 'Something unforeseen happened on this page. Load it again; nothing on the server was lost.'

/** Say what went wrong: once, however many things went wrong in the same way. */
export function complain(error: unknown) {
  const text = sentenceOf(error)
  if (!(error instanceof Refusal)) console.error(error)
  show({ text, bad: true, about: text })
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
