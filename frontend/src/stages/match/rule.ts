// The team's rule as the screen edits it, and what the curve of expected errors says of a setting.
import type { Schemas } from '@/api/client'

export type Rule = Schemas['MatchingRule']
export type Pass = Schemas['Pass']
export type How = 'exactly' | 'closely' | number
export type Point = Schemas['CurvePoint']

export const FIELD_WORDS: Record<string, string> = {
  title: 'Title',
  authors: 'Authors',
  first_author: 'First author',
  year: 'Year',
  journal: 'Journal',
  volume: 'Volume',
  issue: 'Issue',
  pages: 'First page',
  doi: 'DOI',
  accession: 'Accession',
  abstract: 'Abstract',
  kind: 'Kind',
  language: 'Language',
}
export const THEN_WORDS: Record<string, string> = { join: 'Join them', ask: 'Ask a person', apart: 'Leave them apart' }

export const emptyPass = (number: number): Pass => ({
  name: `Pass ${number}`,
  then: 'join',
  agree: { title: 'exactly' },
  not_differ: {},
  kinds: [],
  sources: [],
})

/** A condition in words: "Title exactly", "Year ± 1". */
export function condition(field: string, how: How): string {
  return typeof how === 'number' ? `${FIELD_WORDS[field] ?? field} ± ${how}` : `${FIELD_WORDS[field] ?? field} ${how}`
}

/** The point of the curve at a weight: the last that is not above it. */
export function pointAt(curve: Point[], weight: number): Point {
  let found: Point = curve[0] ?? { weight: 0, links: 0, wrong: 0, missed: 0 }
  for (const one of curve) if (one.weight <= weight + 1e-9) found = one
  return found
}

export interface Expected {
  joined: number
  wrong: number
  asked: number
  missed: number
}
/** What to expect of joining from one weight and asking from another; look-alikes that are asked come on top. */
export function expected(curve: Point[], join: number, ask: number): Expected {
  const [upper, lower] = [pointAt(curve, join), pointAt(curve, Math.min(ask, join))]
  return { joined: upper.links, wrong: upper.wrong, asked: lower.links - upper.links, missed: lower.missed }
}

export const about = (n: number) => (n < 0.05 ? 'none' : n < 10 ? `about ${n.toFixed(1)}` : `about ${Math.round(n)}`)

/** A line of an SVG through points, in its own units. */
export function line(points: [number, number][]): string {
  return points.map(([x, y], k) => `${k ? 'L' : 'M'}${x.toFixed(1)} ${y.toFixed(1)}`).join(' ')
}
