// What the screens of pooling share: names of measures and models, and how figures are written.
import type { Schemas } from '@/api/client'
import { figure } from '@/common/format'

export type Analysis = Schemas['AnalysisText']
export type Pooled = Schemas['PooledStudies']
type Named<T> = { value: T; title: string }[]

export const MEASURES: Record<string, Named<Analysis['measure']>> = {
  counts: [
    { value: 'RR', title: 'risk ratio' },
    { value: 'OR', title: 'odds ratio' },
    { value: 'RD', title: 'risk difference' },
  ],
  mean_sd: [
    { value: 'MD', title: 'mean difference' },
    { value: 'SMD', title: 'standardised mean difference (Hedges’ g)' },
  ],
  number: [{ value: 'GEN', title: 'estimates with their standard errors' }],
  quantity: [{ value: 'GEN', title: 'estimates with their standard errors' }],
}
export const MEASURE_NAMES = Object.fromEntries(
  Object.values(MEASURES)
    .flat()
    .map((one) => [one.value, one.title]),
)
export const TAU2: Named<NonNullable<Analysis['tau2']>> = [
  { value: 'REML', title: 'restricted maximum likelihood (REML)' },
  { value: 'DL', title: 'DerSimonian and Laird' },
  { value: 'PM', title: 'Paule and Mandel' },
  { value: 'ML', title: 'maximum likelihood' },
  { value: 'HE', title: 'Hedges' },
  { value: 'SJ', title: 'Sidik and Jonkman' },
]
export const ORDERS: Named<NonNullable<Analysis['order']>> = [
  { value: 'name', title: 'name' },
  { value: 'year', title: 'year' },
  { value: 'effect', title: 'effect' },
  { value: 'weight', title: 'weight' },
  { value: 'people', title: 'how many took part' },
]

/** "0.76 [0.64, 0.90]" */
export const interval = (estimate: Schemas['PooledEstimate'] | undefined) =>
  estimate && estimate.estimate !== null
    ? `${figure(estimate.estimate)} [${figure(estimate.low)}, ${figure(estimate.high)}]`
    : '—'
/** The other against the one. */
export const turned = (estimate: Schemas['PooledEstimate'], ratio: boolean): Schemas['PooledEstimate'] => {
  const of = (n: number | null) => (n === null ? null : ratio ? 1 / n : -n)
  return { ...estimate, estimate: of(estimate.estimate), low: of(estimate.high), high: of(estimate.low) }
}
export const chance = (p: number | null | undefined) =>
  p === null || p === undefined ? '—' : p < 0.001 ? '< 0.001' : p.toFixed(3)
