import { createRouter, createWebHistory } from 'vue-router'

import { fetchAhead } from './api/queries'
import type { Right } from './api/types'

declare module 'vue-router' {
  interface RouteMeta {
    /** Shown without strip and rail, to people who are not signed in too. */
    alone?: boolean
    /** Takes the whole screen, for people who are signed in. */
    whole?: boolean
    /** The step of the work that it belongs to. */
    step?: 'catalogue' | 'references' | 'pooling' | 'likelihood' | 'plans'
    /** The page of the guide that explains it. */
    guide?: string
    /** Who lacks it is told so. */
    right?: Right
  }
}

export const router = createRouter({
  history: createWebHistory(),
  scrollBehavior: (to, from, saved) => saved ?? (to.path === from.path ? undefined : { top: 0 }),
  routes: [
    { path: '/', redirect: (to) => ({ name: 'catalogue', query: to.query }) },
    {
      path: '/catalogue',
      name: 'catalogue',
      component: () => import('@/areas/catalogue/CataloguePage.vue'),
      meta: { guide: 'start', step: 'catalogue' },
    },
    {
      path: '/tests/new',
      name: 'new-test',
      component: () => import('@/areas/catalogue/SheetEditPage.vue'),
      meta: { guide: 'sheets', step: 'catalogue', right: 'write_sheets' },
    },
    {
      path: '/tests/:id',
      name: 'sheet',
      component: () => import('@/areas/catalogue/SheetPage.vue'),
      props: true,
      // Asked for while the page's scripts are still on their way.
      beforeEnter: (to) => fetchAhead(String(to.params.id)),
      meta: { guide: 'sheets', step: 'catalogue' },
    },
    {
      path: '/tests/:id/edit',
      name: 'edit-test',
      component: () => import('@/areas/catalogue/SheetEditPage.vue'),
      props: true,
      meta: { guide: 'sheets', step: 'catalogue', right: 'write_sheets' },
    },
    {
      path: '/tests/:id/history',
      name: 'history',
      component: () => import('@/areas/review/HistoryPage.vue'),
      props: true,
      meta: { guide: 'sheets', step: 'catalogue', right: 'read_drafts' },
    },
    {
      path: '/references',
      name: 'references',
      component: () => import('@/areas/evidence/ReferencesPage.vue'),
      meta: { guide: 'references', step: 'references' },
    },
    {
      path: '/extractions',
      name: 'extractions',
      component: () => import('@/areas/evidence/ExtractionsPage.vue'),
      meta: { guide: 'double-extraction', step: 'references', right: 'write_studies' },
    },
    {
      path: '/extractions/:extraction',
      name: 'extraction',
      component: () => import('@/areas/evidence/ExtractionPage.vue'),
      props: true,
      meta: { guide: 'double-extraction', step: 'references', right: 'write_studies' },
    },
    {
      path: '/pooling',
      name: 'pooling',
      component: () => import('@/areas/pooling/PoolPage.vue'),
      meta: { guide: 'pooling', step: 'pooling' },
    },
    {
      path: '/pooling/:snapshot',
      name: 'snapshot',
      component: () => import('@/areas/pooling/SnapshotPage.vue'),
      props: true,
      meta: { guide: 'pooling', step: 'pooling' },
    },
    {
      path: '/likelihood',
      name: 'likelihood',
      component: () => import('@/areas/likelihood/LadderPage.vue'),
      meta: { guide: 'likelihood', step: 'likelihood' },
    },
    {
      path: '/likelihood/patient',
      name: 'patient',
      component: () => import('@/areas/likelihood/PatientPage.vue'),
      meta: { guide: 'likelihood', step: 'likelihood' },
    },
    {
      path: '/likelihood/study-size',
      name: 'study-size',
      component: () => import('@/areas/likelihood/StudySizePage.vue'),
      meta: { guide: 'likelihood', step: 'likelihood' },
    },
    {
      path: '/plan',
      name: 'plans',
      component: () => import('@/areas/plan/PlansPage.vue'),
      meta: { guide: 'plan', step: 'plans' },
    },
    {
      path: '/plan/new',
      name: 'new-plan',
      component: () => import('@/areas/plan/PlanEditPage.vue'),
      meta: { guide: 'plan', step: 'plans', right: 'write_sheets' },
    },
    {
      path: '/plan/battery',
      name: 'battery',
      component: () => import('@/areas/combine/BatteryPage.vue'),
      meta: { guide: 'plan', step: 'plans' },
    },
    {
      path: '/plan/examinations',
      name: 'examinations',
      component: () => import('@/areas/examination/ExaminationsPage.vue'),
      meta: { guide: 'examinations', step: 'plans' },
    },
    {
      path: '/plan/in-your-hands',
      name: 'own',
      component: () => import('@/areas/examination/OwnPage.vue'),
      meta: { guide: 'examinations', step: 'plans' },
    },
    {
      path: '/plan/examinations/:examination',
      name: 'examination',
      component: () => import('@/areas/examination/ExaminationPage.vue'),
      props: true,
      meta: { guide: 'examinations', step: 'plans' },
    },
    {
      path: '/plan/examinations/:examination/examine',
      name: 'examine',
      component: () => import('@/areas/examination/ExaminePage.vue'),
      props: true,
      meta: { whole: true, guide: 'examinations', step: 'plans' },
    },
    {
      path: '/plan/:plan',
      name: 'plan',
      component: () => import('@/areas/plan/PlanPage.vue'),
      props: true,
      meta: { guide: 'plan', step: 'plans' },
    },
    {
      path: '/plan/:plan/edit',
      name: 'edit-plan',
      component: () => import('@/areas/plan/PlanEditPage.vue'),
      props: true,
      meta: { guide: 'plan', step: 'plans', right: 'write_sheets' },
    },
    {
      path: '/plan/:plan/history',
      name: 'plan-history',
      component: () => import('@/areas/plan/PlanHistoryPage.vue'),
      props: true,
      meta: { guide: 'plan', step: 'plans', right: 'read_drafts' },
    },
    {
      path: '/conditions/:id/prevalence',
      name: 'prevalence',
      component: () => import('@/areas/evidence/PrevalencePage.vue'),
      props: true,
      meta: { guide: 'studies' },
    },
    {
      path: '/conflicting-teaching',
      name: 'conflicts',
      component: () => import('@/areas/catalogue/ConflictsPage.vue'),
      meta: { guide: 'sheets' },
    },
    {
      path: '/structures',
      name: 'structures',
      component: () => import('@/areas/vocabulary/StructuresPage.vue'),
      meta: { guide: 'sheets' },
    },
    {
      path: '/structures/history',
      name: 'vocabulary-history',
      component: () => import('@/areas/vocabulary/VocabularyHistoryPage.vue'),
      meta: { guide: 'sheets', right: 'read_drafts' },
    },
    {
      path: '/exchange',
      name: 'exchange',
      component: () => import('@/areas/exchange/ExchangePage.vue'),
      meta: { guide: 'tables', right: 'read_drafts' },
    },
    {
      path: '/exchange/table',
      name: 'table-import',
      component: () => import('@/areas/exchange/TableImportPage.vue'),
      meta: { guide: 'tables', right: 'write_studies' },
    },
    {
      path: '/people',
      name: 'people',
      component: () => import('@/areas/people/PeoplePage.vue'),
      meta: { guide: 'people', right: 'manage_accounts' },
    },
    {
      path: '/guide/:page?',
      name: 'guide',
      component: () => import('@/areas/guide/GuidePage.vue'),
      props: true,
    },
    {
      path: '/reset',
      name: 'reset',
      component: () => import('@/areas/people/ResetPage.vue'),
      meta: { alone: true },
    },
    {
      path: '/join',
      name: 'join',
      component: () => import('@/areas/people/JoinPage.vue'),
      meta: { alone: true },
    },
    { path: '/:rest(.*)*', name: 'lost', component: () => import('@/shared/layout/LostPage.vue') },
  ],
})
