// Which rows and columns the evidence table has: levels of a factor are rows below their study, or columns.
import type { Schemas } from '@/api/client'

export type Item = Schemas['DataItem']
export type Study = Schemas['Study']
export type Level = Schemas['StudyLevel']
/** A value that stands: how it is shown if not as it was typed, and the figure that it is sorted by. */
export interface Value extends Place {
  text: string
  shown: string | null
  number: number | null
  quoted: boolean
  how: string
  /** The language model that proposed it, '' for none. */
  model: string
  unfit: string
  /** What the person read for themselves: until another has read it (one), or while they differ (differs). */
  read: string
}
export type Factor = Level['factor']
export const FACTORS: Factor[] = ['arm', 'outcome', 'time']
export const FACTOR_NAMES: Record<Factor, [string, string]> = {
  arm: ['Arm', 'Arms'],
  outcome: ['Outcome', 'Outcomes'],
  time: ['Time point', 'Time points'],
}

/** What a cell is of: a study, an item, and the levels that the item is asked for. */
export interface Place {
  study: number
  item: number
  arm?: number | null
  outcome?: number | null
  time?: number | null
}
export const keyOf = (place: Place) =>
  `${place.study}:${place.item}:${place.arm ?? ''}:${place.outcome ?? ''}:${place.time ?? ''}`

export interface Column {
  key: string
  item: Item
  /** Levels by name: a study may have one of its own that another has too. */
  levels: Partial<Record<Factor, string>>
  title: string
}
export interface Row {
  key: string
  study: Study
  /** The study's first row. */
  first: boolean
  levels: Partial<Record<Factor, Level>>
  label: string
}

const combinations = <T>(ways: T[][]): T[][] =>
  ways.reduce<T[][]>((so, some) => so.flatMap((each) => some.map((one) => [...each, one])), [[]])

export const levelsOf = (all: Level[], factor: Factor, study: number) =>
  all.filter((one) => one.factor === factor && (one.study == null || one.study === study))

export function columnsOf(items: Item[], levels: Level[], rows: Factor[]): Column[] {
  return items.flatMap((item) => {
    const across = FACTORS.filter((factor) => (item.per ?? []).includes(factor) && !rows.includes(factor))
    const names = across.map((factor) => [
      ...new Set(levels.filter((level) => level.factor === factor).map((level) => level.name)),
    ])
    return combinations(names).map((chosen) => ({
      key: [item.id, ...chosen].join(':'),
      item,
      levels: Object.fromEntries(across.map((factor, k) => [factor, chosen[k]!])),
      title: chosen.length ? `${item.name}, ${chosen.join(', ')}` : item.name,
    }))
  })
}

export function rowsOf(studies: Study[], items: Item[], levels: Level[], rows: Factor[]): Row[] {
  const patterns = [
    ...new Set(items.map((item) => FACTORS.filter((f) => (item.per ?? []).includes(f) && rows.includes(f)).join('+'))),
  ]
    .filter(Boolean)
    .sort((a, b) => a.length - b.length)
  return studies.flatMap((study) => {
    const below = patterns.flatMap((pattern) => {
      const factors = pattern.split('+') as Factor[]
      return combinations(factors.map((factor) => levelsOf(levels, factor, study.id))).map((chosen) => ({
        key: [study.id, ...chosen.map((one) => one.id)].join(':'),
        study,
        first: false,
        levels: Object.fromEntries(factors.map((factor, k) => [factor, chosen[k]!])),
        label: chosen.map((one) => one.name).join(', '),
      }))
    })
    return [{ key: String(study.id), study, first: true, levels: {}, label: study.label }, ...below]
  })
}

/** What the cell of a row and a column is of; null where the item is not asked, or the study has no such level. */
export function placeAt(row: Row, column: Column, levels: Level[]): Place | null {
  const place: Place = { study: row.study.id, item: column.item.id! }
  for (const factor of FACTORS) {
    const asked = (column.item.per ?? []).includes(factor)
    const name = column.levels[factor]
    const level = name
      ? levelsOf(levels, factor, row.study.id).find((one) => one.name === name)
      : asked
        ? row.levels[factor]
        : undefined
    if (asked !== Boolean(level)) return null
    if (!asked && row.levels[factor]) return null
    if (level) place[factor] = level.id
  }
  return place
}

/** Every cell of a study, in the codebook's order. */
export function placesOf(study: number, items: Item[], levels: Level[]): Place[] {
  return items.flatMap((item) => {
    const per = FACTORS.filter((factor) => (item.per ?? []).includes(factor))
    return combinations(per.map((factor) => levelsOf(levels, factor, study))).map((chosen) => ({
      study,
      item: item.id!,
      ...Object.fromEntries(per.map((factor, k) => [factor, chosen[k]!.id])),
    }))
  })
}

export const isNumeric = (kind: Item['kind']) =>
  ['number', 'quantity', 'date', 'counts', 'mean_sd', 'median_range'].includes(kind)

/** "Survived, Wrapped" for a cell. */
export function nameOf(place: Place, items: Item[], levels: Level[]): string {
  const names = FACTORS.flatMap((factor) => levels.find((level) => level.id === place[factor])?.name ?? [])
  return [items.find((item) => item.id === place.item)?.name ?? '', ...names].join(', ')
}

/** How sure a proposal is, in words; nothing is ever called certain. */
export const sureness = (chance: number) => (chance >= 0.99 ? 'over 99 %' : `${Math.round(100 * chance)} %`)
