import { createApp } from 'vue'
import { createMemoryHistory, createRouter, type RouteLocationRaw } from 'vue-router'

/** A composable as a page uses it, in an application that stands at an address. */
export async function atAddress<Used>(use: () => Used, address: RouteLocationRaw) {
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)*', component: { render: () => null } }],
  })
  await router.push(address)
  let used!: Used
  const app = createApp(() => {
    used = use()
    return () => null
  })
  app.use(router).mount(document.createElement('div'))
  return { used, router, query: () => router.currentRoute.value.query }
}
