// Which letters of two texts differ, for showing a pair side by side.
export interface Piece {
  text: string
  differs: boolean
}

/** The longest common subsequence of two lists, as pairs of positions. */
function common(a: string[], b: string[]): [number, number][] {
  const width = b.length + 1
  const length = new Uint16Array((a.length + 1) * width)
  for (let i = a.length - 1; i >= 0; i--)
    for (let j = b.length - 1; j >= 0; j--)
      length[i * width + j] =
        a[i] === b[j] ? (length[(i + 1) * width + j + 1] ?? 0) + 1 : Math.max(length[(i + 1) * width + j] ?? 0, length[i * width + j + 1] ?? 0)
  const pairs: [number, number][] = []
  let i = 0
  let j = 0
  while (i < a.length && j < b.length) {
    if (a[i] === b[j]) pairs.push([i++, j++])
    else if ((length[(i + 1) * width + j] ?? 0) >= (length[i * width + j + 1] ?? 0)) i++
    else j++
  }
  return pairs
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
  for (const [text, into] of [[a, left], [b, right]] as const) {
    push(into, text.slice(0, begin), false)
    push(into, text.slice(begin, text.length - end), true)
    push(into, text.slice(text.length - end), false)
  }
}

/** Both texts in pieces, those that the other lacks marked. */
export function differ(a: string, b: string): [Piece[], Piece[]] {
  const words = (text: string) => text.slice(0, 6000).match(/\s+|[^\s\p{P}]+|\p{P}/gu) ?? []
  const [one, two] = [words(a), words(b)]
  const left: Piece[] = []
  const right: Piece[] = []
  let [i, j] = [0, 0]
  for (const [x, y] of [...common(one, two), [one.length, two.length] as [number, number]]) {
    within(one.slice(i, x).join(''), two.slice(j, y).join(''), left, right)
    if (x < one.length) {
      push(left, one[x] ?? '', false)
      push(right, two[y] ?? '', false)
    }
    ;[i, j] = [x + 1, y + 1]
  }
  return [left, right]
}
