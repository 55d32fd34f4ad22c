import { addWaivers, listWaivers, withdrawWaiver } from '@jurybox/api/waivers'
import { EXPECTATIONS } from '@jurybox/core/audit'
import type { StoredWaiver } from './entity.ts'
import { Problem } from '../http/problem.ts'
import { route } from '../http/route.ts'

function viewOf({ id, benchmark, rule, device, subject, reason, owner, expires, createdAt, endedAt }: StoredWaiver) {
  return {
    id,
    benchmark,
    rule,
    device,
    subject,
    reason,
    owner,
    expires: expires.toISOString(),
    createdAt: createdAt.toISOString(),
    endedAt: endedAt?.toISOString() ?? null,
  }
}

export const waiverRoutes = [
  route(listWaivers, async ({ services, engagementId }) => (await services.waivers.list(engagementId)).map(viewOf)),
  route(addWaivers, async ({ services, caller, engagementId, body }) => {
    const { benchmark, rule, devices, subject, reason, owner } = body
    if (benchmark === EXPECTATIONS) {
      if (devices !== null || subject !== null)
        throw new Problem(422, 'An expectation is waived as a whole, not for a device.')
      if (!(await services.traffic.stated(engagementId)).some(({ id }) => id === rule))
        throw new Problem(422, `There is no expectation "${rule}".`)
    } else if (
      !(await services.benchmarks.inEngagement(engagementId, benchmark)).source.rules.some(({ id }) => id === rule)
    )
      throw new Problem(422, `There is no rule "${rule}" in "${benchmark}".`)
    const all = (devices ?? [null]).map((device) => ({ benchmark, rule, device, subject }))
    const expires = new Date(body.expires)
    const came = await services.waivers.add(engagementId, caller.user.id, all, { reason, owner, expires })
    return { came: all.flatMap(({ device }, i) => (came[i] ? [{ device, what: came[i] }] : [])) }
  }),
  route(withdrawWaiver, async ({ services, caller, engagementId, params }) => {
    await services.waivers.withdraw(engagementId, caller.user.id, params.waiver)
    return undefined
  }),
]
