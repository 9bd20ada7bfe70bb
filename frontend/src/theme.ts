// Vuetify in our colours: the same roles as look.css, so that its parts and ours agree.
import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'

const nonce = document.querySelector<HTMLMetaElement>('meta[name=csp-nonce]')?.content

export const vuetify = createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: {
    defaultTheme: 'light',
    cspNonce: nonce,
    themes: {
      light: {
        dark: false,
        colors: {
          background: '#FBF9F5',
          surface: '#FFFFFF',
          primary: '#A8502B',
          secondary: '#1F5F5B',
          error: '#9C2B2B',
          warning: '#80610B',
          success: '#1F5F5B',
          info: '#5E6872',
          'on-surface': '#22262A',
          'on-background': '#22262A',
        },
        variables: {
          'border-color': '#E3DDD2',
          'border-opacity': 1,
          'high-emphasis-opacity': 1,
          'medium-emphasis-opacity': 1,
        },
      },
      dark: {
        dark: true,
        colors: {
          background: '#171A1C',
          surface: '#1F2326',
          primary: '#E08A5F',
          secondary: '#72BDB4',
          error: '#F09A8A',
          warning: '#D9B44A',
          success: '#72BDB4',
          info: '#A3ABB2',
          'on-surface': '#E7E3DA',
          'on-background': '#E7E3DA',
        },
        variables: {
          'border-color': '#343A3F',
          'border-opacity': 1,
          'high-emphasis-opacity': 1,
          'medium-emphasis-opacity': 1,
        },
      },
    },
  },
  defaults: {
    global: { ripple: false },
    VBtn: { variant: 'outlined', density: 'comfortable', height: 28, rounded: 'sm', elevation: 0 },
    VCard: { elevation: 0, rounded: 'sm' },
    VList: { density: 'compact' },
  },
})

/** Light or dark, for Vuetify's parts and for ours. */
export function useTheme(name: string) {
  void vuetify.theme.change(name)
  document.documentElement.classList.toggle('dark', name === 'dark')
}
