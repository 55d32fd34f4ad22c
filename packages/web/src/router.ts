import { createRouter, createWebHistory, type LocationQueryRaw, type RouteLocation, type Router } from 'vue-router'
import { t } from './messages/index.ts'
import { PAGES } from './pages.ts'
import { useEngagement } from './stores/engagement.ts'
import { useSession } from './stores/session.ts'

export function makeRouter(): Router {
  const notFound = () => import('./help/NotFoundPage.vue')
  const router = createRouter({
    history: createWebHistory(),
    routes: [
      {
        path: '/sign-in',
        component: () => import('./sign-in/SignInPage.vue'),
        meta: { title: t('frame.signIn'), open: true },
      },
      {
        path: '/first-user',
        component: () => import('./sign-in/FirstUserPage.vue'),
        meta: { title: t('frame.firstUser'), open: true },
      },
      {
        path: '/new-password',
        component: () => import('./sign-in/NewPasswordPage.vue'),
        meta: { title: t('frame.newPassword') },
      },
      { path: '/', component: () => import('./sign-in/EngagementsPage.vue'), meta: { title: t('common.engagements') } },
      {
        path: '/e/:engagement(\\d+)',
        component: () => import('./frame/EngagementFrame.vue'),
        children: [
          { path: '', redirect: (to) => ({ path: `/e/${String(to.params['engagement'])}/overview` }) },
          ...PAGES.map(({ path, component, title, evidence, help }) => ({
            path,
            component,
            meta: { title, evidence, help },
          })),
          { path: ':rest(.*)+', component: notFound, meta: { title: t('frame.pageNotFound'), help: 'keys' } },
        ],
      },
      { path: '/:rest(.*)*', component: notFound, meta: { title: t('frame.pageNotFound') } },
    ],
  })
  // Every link of an engagement carries the selected snapshot, so that it shows a colleague the same moment.
  const resolve = router.resolve.bind(router)
  router.resolve = ((to: Parameters<typeof resolve>[0], from?: Parameters<typeof resolve>[1]) => {
    const found = resolve(to, from)
    const query = withSnapshot(found)
    return query ? resolve({ path: found.path, query, hash: found.hash }) : found
  }) as typeof router.resolve
  router.beforeEach((to) => {
    const query = withSnapshot(to)
    return query ? { path: to.path, query, hash: to.hash, replace: true } : true
  })
  router.beforeEach(async (to) => {
    if (to.meta['open']) return true
    const session = useSession()
    if (!session.asked) await session.ask()
    if (!session.signedIn) return { path: '/sign-in', query: { to: to.fullPath } }
    return session.view?.mustChange === true && to.path !== '/new-password' ? '/new-password' : true
  })
  router.afterEach((to) => {
    document.title = t('frame.pageTitle', { to: String(to.meta['title'] ?? '') })
  })
  return router
}

/** The query of a place in the open engagement with the selected snapshots; null where it needs none or has them. */
function withSnapshot(to: Pick<RouteLocation, 'params' | 'query'>): LocationQueryRaw | null {
  const engagement = useEngagement()
  const isHere = engagement.id !== 0 && Number(to.params['engagement']) === engagement.id
  if (!isHere) return null
  const added = {
    ...(engagement.selectedA === null || to.query['a'] !== undefined ? {} : { a: String(engagement.selectedA) }),
    ...(engagement.selectedB === null || to.query['b'] !== undefined ? {} : { b: String(engagement.selectedB) }),
  }
  return Object.keys(added).length === 0 ? null : { ...to.query, ...added }
}
