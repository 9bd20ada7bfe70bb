// What people say of proposals: taken, corrected, refused, and taken back again.
import { DELETE, got, POST } from '@/api/client'
import { useRefresh, useReview } from '@/common/review'
import { placeOf } from './evidence'
import type { Place } from './layout'

export function useAnswers() {
  const { review, path } = useReview()
  const refresh = useRefresh()
  /** What was charted or proposed is to be looked at again. */
  const renewed = () => refresh('evidence', 'proposals', 'figures', 'cell')
  const accept = (proposals: number[], text?: string) =>
    got(POST('/api/reviews/{review}/proposals/accepted', { params: path.value, body: { proposals, text } }))
  const refuse = (place: Place) =>
    got(POST('/api/reviews/{review}/proposals/refused', { params: path.value, body: placeOf(place) }))
  async function takeBack(stroke: number) {
    await got(
      DELETE('/api/reviews/{review}/proposals/answers/{stroke}', {
        params: { path: { review: review.value, stroke } },
      }),
    )
    await renewed()
  }
  return { accept, refuse, takeBack, renewed }
}
