// What the screens of appraisal share: the form, and how full the sign of a judgement is.
import type { Schemas } from '@/api/client'

export type Form = Schemas['AppraisalForm']
export type Domain = Schemas['AppraisalDomain']
export type Answer = Schemas['SupportedAnswer']
export type Said = Schemas['SaidOfDomain']

export const wordsOf = (form: Form) => [...(form.judgements ?? []), ...(form.apart ?? [])]

/** 1 for the best judgement, 0 for the worst, null for one that stands in no order, undefined for any other word. */
export function filled(form: Form, judgement: string): number | null | undefined {
  const order = form.judgements ?? []
  const at = order.indexOf(judgement)
  if (at >= 0) return order.length > 1 ? 1 - at / (order.length - 1) : 1
  return (form.apart ?? []).includes(judgement) ? null : undefined
}

export const STATES: Record<string, string> = {
  '': 'not judged',
  draft: 'begun',
  mine: 'judged by you, not yet by the other',
  stands: 'stands',
  differ: 'judged differently',
  settled: 'settled',
  unfit: 'by a word that the form does not have any more',
}

/** Whether an answer can be kept: with what supports it, or that nothing does. */
export const supported = (answerundefined: Answer | undefined) =>
  Boolean(answerundefined?.answer && (answerundefined.support?.trim() || answerundefined.none))
