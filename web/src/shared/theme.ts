// Without the framework's utility classes, five sixths of its styles: pages have styles of their own.
import 'vuetify/styles/core'
import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'
import { computed } from 'vue'
import { createVuetify, type ThemeDefinition, useTheme } from 'vuetify'

/** Besides Vuetify's names: `raises` and `lowers` are the two directions of a result, `sample` marks made-up data. */
const light: ThemeDefinition = {
  dark: false,
  colors: {
    background: '#f7f4ec',
    surface: '#fdfcf8',
    'on-background': '#1e2a2e',
    'on-surface': '#1e2a2e',
    primary: '#12545c',
    'on-primary': '#ffffff',
    secondary: '#5b4a2f',
    error: '#9b1c1c',
    line: '#d9d3c3',
    muted: '#55605f',
    raises: '#12616a',
    lowers: '#7d2a52',
    sample: '#7a4d00',
  },
}
const dark: ThemeDefinition = {
  dark: true,
  colors: {
    background: '#14191b',
    surface: '#1b2225',
    'on-background': '#e9e6dd',
    'on-surface': '#e9e6dd',
    primary: '#7cc7c4',
    'on-primary': '#0c2224',
    secondary: '#c9b48a',
    error: '#f0938c',
    line: '#39444a',
    muted: '#a9b2b0',
    raises: '#7cc7c4',
    lowers: '#e59abb',
    sample: '#e6b566',
  },
}

const STORED = 'pruvex-theme'

const stored = useLocalStorage<string>(STORED, '', { writeDefaults: false })

function preferred(): 'light' | 'dark' {
  if (stored.value === 'light' || stored.value === 'dark') return stored.value
  return usePreferredDark().value ? 'dark' : 'light'
}

/** Whether the colours are dark, and how they change; kept for this browser. */
export function useThemeSwitch() {
  const theme = useTheme()
  const dark = computed(() => theme.global.current.value.dark)
  function toggle() {
    const name = dark.value ? 'light' : 'dark'
    theme.change(name)
    stored.value = name
  }
  return { dark, toggle }
}

export const vuetify = createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: { defaultTheme: preferred(), themes: { light, dark } },
  defaults: {
    VBtn: { variant: 'outlined', density: 'comfortable' },
    VTextField: { variant: 'outlined', density: 'compact', hideDetails: 'auto' },
    VTextarea: { variant: 'outlined', density: 'compact', hideDetails: 'auto', autoGrow: true, rows: 2 },
    VSelect: { variant: 'outlined', density: 'compact', hideDetails: 'auto' },
    VAutocomplete: { variant: 'outlined', density: 'compact', hideDetails: 'auto' },
    VCombobox: { variant: 'outlined', density: 'compact', hideDetails: 'auto' },
  },
})
