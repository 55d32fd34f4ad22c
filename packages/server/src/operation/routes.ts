import { route } from '../http/route.ts'

export const operationRoutes = [
  route({
    method: 'get',
    path: '/installation',
    access: 'administrator',
    summary: 'How the installation does: its key, its disk, its main thread',
    handle: async ({ services }) => ({
      build: services.build,
      key: { source: services.keyChange.source, change: services.keyChange.state },
      freeDiskMb: await services.space.mb(),
      longestBlockMs: Math.round(services.metrics.longestBlock),
    }),
  }),
  route({
    method: 'post',
    path: '/installation/key',
    access: 'administrator',
    fresh: true,
    summary: 'Puts a new key in place of the one by which everything is sealed, while the server runs',
    handle: async ({ services, caller }) => {
      services.keyChange.begin()
      await services.activity.add({ userId: caller.user.id, engagementId: null, action: 'key changed', detail: {} })
      return services.keyChange.state
    },
  }),
]
