// Which letters of two texts differ, for showing a pair side by side.
import { diffArrays } from 'diff'

export interface Piece {
  text: string
  differs: boolean
}

function push(into: Piece[], text: string, differs: boolean) {
  const last = into.at(-1)
  if (!text) return
  if (last && last.differs === differs) last.text += text
  else into.push({ text, differs })
}

/** Within two runs of words that differ: what they begin and end with alike stays unmarked. */
function within(a: string, b: string, left: Piece[], right: Piece[]) {
  let begin = 0
  while (begin < a.length && begin < b.length && a[begin] === b[begin]) begin++
  let end = 0
  while (end < a.length - begin && end < b.length - begin && a.at(-1 - end) === b.at(-1 - end)) end++
  for (const [text, into] of [
    [a, left],
    [b, right],
  ] as const) {
    push(into, text.slice(0, begin), false)
    push(into, text.slice(begin, text.length - end), true)
    push(into, text.slice(text.length - end), false)
  }
}

/** So many characters are compared word by word; what comes after them, as a whole. */
const MOST = 6000

/** Both texts in pieces, those that the other lacks marked. */
export function differ(a: string, b: string): [Piece[], Piece[]] {
  const words = (text: string) => text.slice(0, MOST).match(/\s+|[^\s\p{P}]+|\p{P}/gu) ?? []
  const left: Piece[] = []
  const right: Piece[] = []
  let [gone, come] = ['', '']
  for (const part of diffArrays(words(a), words(b))) {
    const text = part.value.join('')
    if (part.removed) gone += text
    else if (part.added) come += text
    else {
      within(gone, come, left, right)
      ;[gone, come] = ['', '']
      push(left, text, false)
      push(right, text, false)
    }
  }
  within(gone, come, left, right)
  const rest = [a.slice(MOST), b.slice(MOST)] as const
  push(left, rest[0], rest[0] !== rest[1])
  push(right, rest[1], rest[0] !== rest[1])
  return [left, right]
}
