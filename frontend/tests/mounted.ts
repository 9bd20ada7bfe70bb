// A composable needs a component around it.
import { createApp, defineComponent, h, type App } from 'vue'
import { createRouter, createMemoryHistory, type Router } from 'vue-router'

export interface Mounted<T> {
  it: T
  app: App
  router: Router
}

export async function mounted<T>(use: () => T, address = '/'): Promise<Mounted<T>> {
  let it!: T
  const Page = defineComponent({ setup: () => ((it = use()), () => h('div')) })
  const router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/:rest(.*)', component: Page }] })
  await router.push(address)
  const app = createApp(Page).use(router)
  app.mount(document.createElement('div'))
  return { it, app, router }
}
