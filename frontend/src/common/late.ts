// Two people edited the same thing: who is late sees both, and chooses.
import { reactive } from 'vue'
import { Refusal } from '@/api/client'

export interface Both {
  what: string
  theirs: string
  yours: string
}
interface Asked {
  message: string
  both: Both[]
  mine: () => unknown
  theirs: () => unknown
}

export const late = reactive<{ asked: Asked | null }>({ asked: null })

/** Ask which of two is to stand. */
export function choose(message: string, both: Both[], mine: () => unknown, theirs: () => unknown) {
  late.asked = { message, both, mine, theirs }
}

/**
 * Whether a refusal says that somebody else was faster; then the person is asked. `mine` gets what would stand
 * with one's own words and what stands now, so that it can be written again; `theirs` lets what stands now stand.
 */
export function wasLate<T>(error: unknown, mine: (mine: T, now: T) => unknown, theirs: () => unknown): boolean {
  if (!(error instanceof Refusal) || error.status !== 409 || !Array.isArray(error.details.both)) return false
  choose(
    error.message,
    error.details.both as Both[],
    () => mine(error.details.mine as T, error.details.now as T),
    theirs,
  )
  return true
}
