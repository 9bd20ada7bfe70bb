// How a person likes to see the evidence table: kept on the server, so it is the same on another machine.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useDebounceFn } from '@vueuse/core'
import { computed } from 'vue'
import { GET, got, PUT, type Schemas } from '@/api/client'
import { attempt } from '@/common/messages'
import { useReview } from '@/common/review'

type Required_ = Required<Schemas['TableView']>
const PLAIN: Required_ = { hidden: [], pinned: [], order: [], widths: {}, rows: ['outcome', 'time'], pane: 480 }

export function useTableView() {
  const { review, path } = useReview()
  const client = useQueryClient()
  const { data } = useQuery({
    queryKey: ['evidence-view', review],
    staleTime: Infinity,
    queryFn: () => got(GET('/api/reviews/{review}/evidence/view', { params: path.value })),
  })
  const view = computed<Required_>(() => ({ ...PLAIN, ...data.value }))
  const keep = () =>
    attempt(() => got(PUT('/api/reviews/{review}/evidence/view', { params: path.value, body: view.value })))
  const keepSoon = useDebounceFn(keep, 400)
  function change(some: Partial<Required_>) {
    client.setQueryData(['evidence-view', review.value], { ...view.value, ...some })
    void (some.widths ? keepSoon() : keep()) // a column is made wider step by step
  }
  return { view, change }
}
