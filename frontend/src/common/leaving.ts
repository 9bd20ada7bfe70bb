// Whether somebody is on the way to another view: what is set in the address of this one then must not call them back.
import { onScopeDispose } from 'vue'
import { useRouter } from 'vue-router'

export function useLeaving(): () => boolean {
  let leaving = false
  onScopeDispose(
    useRouter().beforeEach((to, from) => {
      leaving = to.path !== from.path
    }),
  )
  return () => leaving
}
