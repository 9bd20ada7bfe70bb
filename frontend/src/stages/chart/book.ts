// The codebook while it is edited: parts with keys of their own, so that a new one can be told from another.
import type { Schemas } from '@/api/client'
import type { Factor } from './layout'

export type Text = Schemas['CodebookText']
export interface ItemDraft extends Required<Omit<Schemas['DataItem'], 'id' | 'low' | 'high' | 'choices'>> {
  key: string
  id: number | null
  low: string
  high: string
  choices: string
}
export interface ConceptDraft {
  key: string
  id: number | null
  name: string
  within: string
}
export interface LevelDraft {
  key: string
  id: number | null
  factor: Factor
  name: string
  words: string
}
export interface Draft {
  items: ItemDraft[]
  concepts: ConceptDraft[]
  levels: LevelDraft[]
}
export type Part = ItemDraft | ConceptDraft | LevelDraft

let made = 0
const keyOf = (kind: string, id: number | null | undefined) => (id ? `${kind}${id}` : `new${++made}`)
const figure = (each: number | null | undefined) => (each === null || each === undefined ? '' : String(each))

export const drafted = (each: Text): Draft => ({
  items: each.items.map((one) => ({
    key: keyOf('item', one.id),
    id: one.id ?? null,
    name: one.name,
    kind: one.kind,
    unit: one.unit ?? '',
    choices: (one.choices ?? []).join('\n'),
    instructions: one.instructions ?? '',
    examples: one.examples ?? '',
    low: figure(one.low),
    high: figure(one.high),
    per: [...(one.per ?? [])],
    concept: one.concept ?? '',
  })),
  concepts: (each.concepts ?? []).map((one) => ({
    key: keyOf('concept', one.id),
    id: one.id ?? null,
    name: one.name,
    within: one.within ?? '',
  })),
  levels: (each.levels ?? []).map((one) => ({
    key: keyOf('level', one.id),
    id: one.id ?? null,
    factor: one.factor,
    name: one.name,
    words: (one.words ?? []).join('; '),
  })),
})

const parts = (text: string, at: RegExp) =>
  text
    .split(at)
    .map((one) => one.trim())
    .filter(Boolean)
const number = (text: string) => (text.trim() === '' ? null : Number(text.trim().replace(',', '.').replace('−', '-')))

/** A bound of the allowed range that is no number; "" if all are. */
export const noNumber = (draft: Draft) =>
  draft.items.find((one) => [one.low, one.high].some((end) => Number.isNaN(number(end) ?? 0)))?.name ?? ''

export const said = (draft: Draft): Text => ({
  items: draft.items.map((one) => ({
    id: one.id,
    name: one.name,
    kind: one.kind,
    unit: one.unit,
    choices: parts(one.choices, /\n/),
    instructions: one.instructions,
    examples: one.examples,
    low: number(one.low),
    high: number(one.high),
    per: one.per,
    concept: one.concept,
  })),
  concepts: draft.concepts.map(({ id, name, within }) => ({ id, name, within })),
  levels: draft.levels.map(({ id, factor, name, words }) => ({ id, factor, name, words: parts(words, /[;\n]/) })),
})

export interface Entry {
  part: Part
  depth: number
  kind: 'item' | 'concept' | 'level'
}
/** The outline: items without a concept, then each concept with its items and the narrower ones, then the levels. */
export function outline(draft: Draft): Entry[] {
  const known = new Set(draft.concepts.map((one) => one.name))
  const itemsOf = (name: string, depth: number): Entry[] =>
    draft.items
      .filter((one) => (known.has(one.concept) ? one.concept : '') === name)
      .map((part) => ({ part, depth, kind: 'item' }))
  const below = (name: string, depth: number, above: string[]): Entry[] =>
    draft.concepts
      .filter((one) => (known.has(one.within) ? one.within : '') === name && !above.includes(one.name))
      .flatMap((part): Entry[] => [
        { part, depth, kind: 'concept' },
        ...itemsOf(part.name, depth + 1),
        ...below(part.name, depth + 1, [...above, part.name]),
      ])
  return [
    ...itemsOf('', 0),
    ...below('', 0, []),
    ...draft.levels.map((part): Entry => ({ part, depth: 0, kind: 'level' })),
  ]
}

/** Exchange a part with the one of its sort that is before or after it among those beside it. */
export function move<T>(list: T[], part: T, by: number, beside: (one: T) => boolean) {
  const at = list.indexOf(part)
  for (let k = at + by; k >= 0 && k < list.length; k += by)
    if (beside(list[k]!)) {
      list.splice(k, 0, list.splice(at, 1)[0]!)
      return
    }
}
