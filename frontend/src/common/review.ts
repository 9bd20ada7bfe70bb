// What the views of a review share: its number, its figures, its protocol, one's role.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { GET, got } from '@/api/client'

export function useReview() {
  const route = useRoute()
  const review = computed(() => Number(route.params.review))
  const path = computed(() => ({ path: { review: review.value } }))
  const figures = useQuery({
    queryKey: ['figures', review],
    queryFn: () => got(GET('/api/reviews/{review}/figures', { params: path.value })),
  })
  const protocol = useQuery({
    queryKey: ['protocol', review],
    queryFn: () => got(GET('/api/reviews/{review}/protocol', { params: path.value })),
  })
  const role = computed(() => protocol.data.value?.role ?? 'observer')
  const mayWrite = computed(() => role.value !== 'observer')
  const mayLead = computed(() => role.value === 'lead')
  return { review, path, figures, protocol, role, mayWrite, mayLead }
}

/** Ask again for everything whose key begins with one of these words. */
export function useRefresh() {
  const client = useQueryClient()
  return (...words: string[]) => Promise.all(words.map((word) => client.invalidateQueries({ queryKey: [word] })))
}
