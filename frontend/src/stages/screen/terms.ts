// The words that the order of screening learned, as they stand in a record: what is underlined in its full text too.
import type { Schemas } from '@/api/client'
import type { PdfTerm } from '@/common/pdf'

export function termsOf(
  sheet: Pick<Schemas['Sheet'], 'record' | 'title_marks' | 'abstract_marks' | 'own_words'>,
): PdfTerm[] {
  const found = new Map<string, boolean>()
  for (const [text, marks] of [
    [sheet.record.title, sheet.title_marks],
    [sheet.record.abstract, sheet.abstract_marks],
  ] as const) {
    const points = Array.from(text)
    for (const mark of marks.filter((one) => !one.own))
      found.set(points.slice(mark.begin, mark.end).join('').toLowerCase(), mark.supports)
  }
  const own = sheet.own_words.map((word) => ({ term: word.word, supports: word.supports, own: true }))
  const learned = [...found].map(([term, supports]) => ({ term, supports, own: false }))
  return [...own, ...learned.filter((each) => !own.some((one) => one.term.toLowerCase() === each.term))]
}
