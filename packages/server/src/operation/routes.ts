import { changeKey, getInstallation } from '@jurybox/api/installation'
import { route } from '../http/route.ts'

export const operationRoutes = [
  route(getInstallation, async ({ services }) => ({
    build: services.build,
    key: { source: services.keyChange.source, change: services.keyChange.state },
    freeDiskMb: await services.space.mb(),
    longestBlockMs: Math.round(services.metrics.longestBlock),
  })),
  route(changeKey, async ({ services, caller }) => {
    services.keyChange.begin()
    await services.activity.add({ userId: caller.user.id, engagementId: null, action: 'key changed', detail: {} })
    return services.keyChange.state
  }),
]
