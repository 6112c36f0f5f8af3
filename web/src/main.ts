import '@fontsource-variable/open-sans/wght.css'
import '@fontsource-variable/source-serif-4/wght.css'
import './shared/styles.css'

import { VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'

import App from './App.vue'
import { queryClient } from './shared/api/queries'
import { router } from './shared/router'
import { vuetify } from './shared/theme'

createApp(App).use(router).use(VueQueryPlugin, { queryClient }).use(vuetify).mount('#app')
