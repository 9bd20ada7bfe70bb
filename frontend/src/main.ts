import '@fontsource-variable/public-sans/index.css'
import '@fontsource-variable/source-serif-4/index.css'
import '@fontsource-variable/source-serif-4/wght-italic.css'
import 'vuetify/styles'
import './look.css'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import { Refusal } from '@/api/client'
import { fields } from '@/common/fields'
import App from './App.vue'
import { router } from './router'
import { vuetify } from './theme'

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 20_000,
      refetchOnWindowFocus: false,
      retry: (times, error) => times < 2 && !(error instanceof Refusal && error.status >= 400 && error.status < 500),
    },
  },
})

createApp(App).use(router).use(vuetify).use(fields).use(VueQueryPlugin, { queryClient: queries }).mount('#app')
