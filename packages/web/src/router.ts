import { createRouter, createWebHistory, type Router } from 'vue-router'
import { useSession } from './stores/session.ts'

export function makeRouter(): Router {
  const router = createRouter({
    history: createWebHistory(),
    routes: [
      { path: '/sign-in', component: () => import('./sign-in/SignInPage.vue'), meta: { title: 'Sign in', open: true } },
      {
        path: '/first-user',
        component: () => import('./sign-in/FirstUserPage.vue'),
        meta: { title: 'First user', open: true },
      },
      {
        path: '/new-password',
        component: () => import('./sign-in/NewPasswordPage.vue'),
        meta: { title: 'New password' },
      },
      { path: '/', component: () => import('./sign-in/EngagementsPage.vue'), meta: { title: 'Engagements' } },
      {
        path: '/e/:engagement(\\d+)',
        component: () => import('./frame/EngagementFrame.vue'),
        children: [
          { path: '', redirect: (to) => ({ path: `/e/${String(to.params['engagement'])}/overview` }) },
          { path: 'overview', component: () => import('./overview/OverviewPage.vue'), meta: { title: 'Overview' } },
          {
            path: 'search',
            component: () => import('./search/SearchPage.vue'),
            meta: { title: 'Search', lines: true },
          },
          { path: 'estate/map', component: () => import('./estate/MapPage.vue'), meta: { title: 'Map' } },
          {
            path: 'estate/tables',
            component: () => import('./estate/TablesPage.vue'),
            meta: { title: 'Tables', lines: true },
          },
          { path: 'estate/groups', component: () => import('./estate/GroupsPage.vue'), meta: { title: 'Groups' } },
          {
            path: 'estate/labels',
            component: () => import('./estate/LabelsPage.vue'),
            meta: { title: 'Labels and sites' },
          },
          {
            path: 'estate/versions',
            component: () => import('./estate/VersionsPage.vue'),
            meta: { title: 'Approved versions' },
          },
          { path: 'estate', component: () => import('./estate/EstatePage.vue'), meta: { title: 'Estate' } },
          {
            path: 'estate/:device(\\d+)',
            component: () => import('./estate/DevicePage.vue'),
            meta: { title: 'Device', lines: true },
          },
          {
            path: 'snapshots',
            component: () => import('./snapshots/SnapshotsPage.vue'),
            meta: { title: 'Snapshots', lines: true },
          },
          {
            path: 'snapshots/collect',
            component: () => import('./collect/CollectPage.vue'),
            meta: { title: 'Collecting' },
          },
          {
            path: 'snapshots/discover',
            component: () => import('./collect/DiscoverPage.vue'),
            meta: { title: 'Discovery' },
          },
          {
            path: 'benchmarks',
            component: () => import('./benchmarks/BenchmarksPage.vue'),
            meta: { title: 'Benchmarks' },
          },
          {
            path: 'benchmarks/:benchmark',
            component: () => import('./benchmarks/BenchmarkPage.vue'),
            meta: { title: 'Benchmark' },
          },
          { path: 'rule-bench', component: () => import('./rules/RuleBench.vue'), meta: { title: 'Rule bench' } },
          { path: 'verdicts', component: () => import('./verdicts/VerdictsPage.vue'), meta: { title: 'Verdicts' } },
          {
            path: 'verdicts/:audit(\\d+)/:verdict(\\d+)',
            component: () => import('./verdicts/VerdictPage.vue'),
            meta: { title: 'Verdict', lines: true },
          },
          {
            path: 'traffic',
            component: () => import('./traffic/ExpectationsPage.vue'),
            meta: { title: 'Traffic', lines: true },
          },
          {
            path: 'traffic/ask',
            component: () => import('./traffic/AskPage.vue'),
            meta: { title: 'Ask of traffic', lines: true },
          },
          {
            path: 'traffic/filters',
            component: () => import('./traffic/FiltersPage.vue'),
            meta: { title: 'Filters', lines: true },
          },
          {
            path: 'traffic/changes',
            component: () => import('./traffic/ChangesPage.vue'),
            meta: { title: 'Changes of traffic', lines: true },
          },
          {
            path: 'traffic/functions',
            component: () => import('./traffic/FunctionsPage.vue'),
            meta: { title: 'Functions', lines: true },
          },
          {
            path: 'traffic/network',
            component: () => import('./traffic/NetworkPage.vue'),
            meta: { title: 'Findings of the network', lines: true },
          },
          { path: 'reports', component: () => import('./reports/ReportsPage.vue'), meta: { title: 'Reports' } },
          { path: 'set-up', component: () => import('./collect/SetUpPage.vue'), meta: { title: 'Set up' } },
          {
            path: 'installation',
            component: () => import('./settings/InstallationPage.vue'),
            meta: { title: 'Installation' },
          },
          { path: 'glossary', component: () => import('./help/GlossaryPage.vue'), meta: { title: 'Glossary' } },
          { path: 'settings', component: () => import('./settings/SettingsPage.vue'), meta: { title: 'Settings' } },
        ],
      },
      { path: '/:rest(.*)*', redirect: '/' },
    ],
  })
  router.beforeEach(async (to) => {
    if (to.meta['open']) return true
    const session = useSession()
    if (!session.asked) await session.ask()
    if (!session.signedIn) return { path: '/sign-in', query: { to: to.fullPath } }
    return session.view?.mustChange === true && to.path !== '/new-password' ? '/new-password' : true
  })
  router.afterEach((to) => {
    document.title = `${String(to.meta['title'] ?? '')} · Jury Box`
  })
  return router
}
