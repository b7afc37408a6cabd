import { createRouter, createWebHistory, type RouteLocationNormalized } from 'vue-router'
import JobsPage from '@/jobs/JobsPage.vue'

declare module 'vue-router' {
  interface RouteMeta {
    /** The word of the query that names what the page opens at. */
    opensAt?: string
  }
}

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/today' },
    { path: '/today', component: () => import('@/today/TodayPage.vue') },
    { path: '/jobs', component: JobsPage, props: { place: null } },
    { path: '/products', component: () => import('@/products/ProductsPage.vue') },
    { path: '/clients', component: () => import('@/office/ClientsPage.vue') },
    {
      path: '/nonconformities',
      component: () => import('@/office/NonconformitiesPage.vue'),
    },
    { path: '/trends', component: () => import('@/office/TrendsPage.vue') },
    { path: '/figures', component: () => import('@/office/FiguresPage.vue') },
    { path: '/due', component: () => import('@/office/DuePage.vue') },
    { path: '/send', component: () => import('@/jobs/SendPage.vue') },
    { path: '/s/:code', component: () => import('@/app/ScannedPage.vue'), props: true },
    { path: '/jobs/new', component: () => import('@/jobs/ReceivePage.vue') },
    { path: '/jobs/:id(\\d+)', component: () => import('@/jobs/JobPage.vue'), props: numbered },
    {
      path: '/studies/:id(\\d+)',
      component: () => import('@/jobs/StudyPage.vue'),
      props: numbered,
    },
    { path: '/cutting', component: JobsPage, props: { place: 'cutting' } },
    {
      path: '/cutting/:id(\\d+)',
      component: () => import('@/cutting/CuttingPage.vue'),
      props: numbered,
    },
    { path: '/conditioning', component: () => import('@/conditioning/ConditioningPage.vue') },
    { path: '/bench', component: JobsPage, props: { place: 'bench' } },
    {
      path: '/bench/:id(\\d+)',
      component: () => import('@/bench/BenchPage.vue'),
      props: numbered,
      meta: { opensAt: 'specimen' },
    },
    { path: '/judge', component: JobsPage, props: { place: 'judge' } },
    {
      path: '/judge/:id(\\d+)',
      component: () => import('@/judging/JudgePage.vue'),
      props: numbered,
    },
    {
      path: '/measuring/:id(\\d+)',
      component: () => import('@/measuring/MeasuringPage.vue'),
      props: numbered,
    },
    {
      path: '/readings/:id(\\d+)',
      component: () => import('@/bench/ReadingsPage.vue'),
      props: numbered,
    },
    {
      path: '/instruments',
      component: () => import('@/instruments/InstrumentsPage.vue'),
      meta: { opensAt: 'serial' },
    },
    {
      path: '/people',
      component: () => import('@/people/PeoplePage.vue'),
      meta: { opensAt: 'id' },
    },
    { path: '/methods', component: () => import('@/methods/MethodsPage.vue') },
    { path: '/methods/:method', component: () => import('@/methods/MethodPage.vue'), props: true },
    { path: '/:rest(.*)', component: () => import('@/app/NowherePage.vue') },
  ],
})

/** Tells the pages that are shown anew: by their address, and by the thing that a link opens them at. */
export function pageKey(route: RouteLocationNormalized): string {
  const opened = route.query[route.meta.opensAt ?? '']
  return typeof opened === 'string' ? `${route.path} ${opened}` : route.path
}

function numbered(route: { params: Record<string, string | string[]> }) {
  return { id: Number(route.params.id) }
}

/** Where the next action of a job is done. */
export function placeOf(nextPlace: string, jobId: number): string {
  if (nextPlace === 'conditioning') return `/conditioning?job=${jobId}`
  if (nextPlace === 'report') return `/judge/${jobId}`
  return `/${nextPlace}/${jobId}`
}
