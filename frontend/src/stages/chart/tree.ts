// Where concepts stand in their picture: broader ones at the left, each beside the middle of its narrower ones.
export interface ConceptShown {
  id: number
  name: string
  within: string
  studies: number[]
}
export interface Node {
  id: number
  name: string
  studies: number
  x: number
  y: number
}
const BOX = 190
const STEP = 260
const ROW = 60
const THICK = 30

export function drawnTree(concepts: readonly ConceptShown[]) {
  const names = new Set(concepts.map((concept) => concept.name))
  const below = (name: string) =>
    concepts.filter((concept) => (names.has(concept.within) ? concept.within : '') === name)
  const most = Math.max(1, ...concepts.map((concept) => concept.studies.length))
  const nodes: Node[] = []
  const bands: { key: string; d: string }[] = []
  let row = 0
  let deepest = 0
  function place(shown: ConceptShown, depth: number): Node {
    deepest = Math.max(deepest, depth)
    const mine: Node = { id: shown.id, name: shown.name, studies: shown.studies.length, x: depth * STEP, y: 0 }
    nodes.push(mine)
    const narrower = below(shown.name)
    if (!narrower.length) mine.y = row++ * ROW
    else {
      const placed = narrower.map((one) => place(one, depth + 1))
      mine.y = (placed[0]!.y + placed.at(-1)!.y) / 2
      for (const one of placed) bands.push({ key: `${shown.id}-${one.id}`, d: band(mine, one) })
    }
    return mine
  }
  /** A band from the right edge of a concept to the left edge of a narrower one, as thick as its studies are many. */
  function band(from: Node, to: Node): string {
    const half = Math.max(0.75, (THICK * to.studies) / most / 2)
    const [x1, x2] = [from.x + BOX, to.x]
    const [y1, y2, middle] = [from.y + 22, to.y + 22, (x1 + x2) / 2]
    const edge = (by: number) => `${x1} ${y1 + by} C ${middle} ${y1 + by} ${middle} ${y2 + by} ${x2} ${y2 + by}`
    return `M ${edge(-half)} L ${x2} ${y2 + half} C ${middle} ${y2 + half} ${middle} ${y1 + half} ${x1} ${y1 + half} Z`
  }
  for (const one of below('')) place(one, 0)
  return { nodes, bands, box: BOX, width: deepest * STEP + BOX + 4, height: Math.max(1, row) * ROW }
}
