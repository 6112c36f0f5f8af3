import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  scrollBehavior: (to, from, saved) => saved ?? (to.path === from.path ? undefined : { top: 0 }),
  routes: [
    { path: '/', redirect: (to) => ({ name: 'catalogue', query: to.query }) },
    { path: '/catalogue', name: 'catalogue', component: () => import('@/areas/catalogue/CataloguePage.vue') },
    { path: '/tests/new', name: 'new-test', component: () => import('@/areas/catalogue/SheetEditPage.vue') },
    {
      path: '/tests/:id',
      name: 'sheet',
      component: () => import('@/areas/catalogue/SheetPage.vue'),
      props: true,
    },
    {
      path: '/tests/:id/edit',
      name: 'edit-test',
      component: () => import('@/areas/catalogue/SheetEditPage.vue'),
      props: true,
    },
    { path: '/:rest(.*)*', name: 'lost', component: () => import('@/shared/layout/LostPage.vue') },
  ],
})
