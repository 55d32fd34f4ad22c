import {
  addWindow,
  downloadWindowReport,
  getWindow,
  listWindows,
  setWindowSnapshots,
  stepWindow,
  type WindowRow,
  type WindowView,
} from '@jurybox/api/windows'
import type { CheckedDeviceView } from '@jurybox/api/checks'
import { comparisonHtml, comparisonMarkdown } from '@jurybox/core/report'
import { checkShelf, type CheckShelf, type CheckedDevice } from '../changes/checks.ts'
import { checkedView } from '../changes/checked-view.ts'
import { summaryOf, type DeviceChange } from '../changes/service.ts'
import { download } from '../http/download.ts'
import { Problem } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import { momentOf, windowDocument } from './document.ts'
import type { ChangeWindow } from './entity.ts'
import { isPending, type WindowResults } from './service.ts'

const SHOWN = 6

type Standing = WindowView['results'][number]['standing']

async function rowOf(services: Services, window: ChangeWindow, counts: WindowRow['counts']): Promise<WindowRow> {
  const { id, engagementId, title, reason, state, devices, checks, problem } = window
  return {
    id,
    title,
    reason,
    state,
    devices,
    checks,
    problem,
    counts,
    beginsAt: window.beginsAt.toISOString(),
    endsAt: window.endsAt.toISOString(),
    before: await momentOf(services, window.beforeId, engagementId),
    after: await momentOf(services, window.afterId, engagementId),
    createdBy: window.createdByName,
    createdAt: window.createdAt.toISOString(),
  }
}

/** Checks of a window: what fails and may settle is pending. */
function viewed(
  checked: CheckedDevice,
  window: ChangeWindow,
  results: WindowResults,
  shelf: CheckShelf,
): CheckedDeviceView {
  const view = checkedView(checked, shelf)
  return {
    ...view,
    results: view.results.map((one, i) => {
      const own = checked.results[i]
      return own && isPending(own, window, results.settles) ? { ...one, outcome: 'pending' } : one
    }),
  }
}

function standingOf(change: DeviceChange | undefined, view: CheckedDeviceView | null): Standing {
  if (!change || change.standing === 'added' || change.standing === 'removed') return 'missing'
  const outcomes = (view?.results ?? []).map(({ outcome }) => outcome)
  if (outcomes.includes('pending')) return 'pending'
  if (outcomes.includes('fail')) return 'fail'
  if (outcomes.includes('unknown') || outcomes.includes('error') || change.standing === 'unreadable') return 'unknown'
  // What was not collected again shows nothing of the change.
  if (change.standing === 'carried') return 'unknown'
  return outcomes.includes('pass') ? 'pass' : 'unchecked'
}

async function windowOf(services: Services, window: ChangeWindow): Promise<WindowView> {
  const results = await services.windows.results(window)
  const shelf = await checkShelf(services.changes, window.engagementId)
  if (!results) return { ...(await rowOf(services, window, null)), results: [], network: null, unplanned: [] }
  const checkedOf = new Map(
    results.checked.map((one) => [one.device?.name ?? null, viewed(one, window, results, shelf)]),
  )
  const own = window.devices.map((device) => {
    const change = results.changes.find((one) => one.device.name === device)
    const checked = checkedOf.get(device) ?? null
    return {
      device,
      checked,
      standing: standingOf(change, checked),
      changed: change?.standing === 'changed',
      summary: summaryOf(change?.compared ?? null, SHOWN),
    }
  })
  const count = (...standings: readonly Standing[]): number =>
    own.filter(({ standing }) => standings.includes(standing)).length
  const counts = {
    pass: count('pass'),
    fail: count('fail'),
    unknown: count('unknown', 'missing'),
    pending: count('pending'),
    unchecked: count('unchecked'),
  }
  return {
    ...(await rowOf(services, window, counts)),
    results: own,
    network: checkedOf.get(null) ?? null,
    unplanned: results.unplanned.map(({ device, compared, authors, standing }) => ({
      device: device.name,
      standing,
      summary: summaryOf(compared, SHOWN),
      authors: [...authors],
    })),
  }
}

const FORMATS = {
  html: { type: 'text/html; charset=utf-8' },
  md: { type: 'text/markdown; charset=utf-8' },
  pdf: { type: 'application/pdf' },
} as const

export const windowRoutes = [
  route(listWindows, async ({ services, engagementId }) =>
    Promise.all((await services.windows.list(engagementId)).map(async (window) => rowOf(services, window, null))),
  ),
  route(getWindow, async ({ services, engagementId, params }) =>
    windowOf(services, await services.windows.find(params.window, engagementId)),
  ),
  route(addWindow, async ({ services, caller, engagementId, body }) => {
    const { beginsAt, endsAt, ...plan } = body
    const window = await services.windows.add(
      engagementId,
      { ...plan, beginsAt: new Date(beginsAt), endsAt: new Date(endsAt) },
      caller.user,
    )
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'window planned',
      detail: { title: plan.title, devices: plan.devices, beginsAt, endsAt },
    })
    return { id: window.id }
  }),
  route(stepWindow, async ({ services, caller, engagementId, params, body }) => {
    const window = await services.windows.find(params.window, engagementId)
    const { windows } = services
    // Nobody waits for a collection to end.
    if (body.do === 'begin') windows.soon(async () => windows.begin(window.id))
    else if (body.do === 'cancel') await windows.cancel(window)
    else windows.soon(async () => windows.end(window.id))
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'window moved on',
      detail: { title: window.title, step: body.do },
    })
    return undefined
  }),
  route(setWindowSnapshots, async ({ services, caller, engagementId, params, body }) => {
    const window = await services.windows.find(params.window, engagementId)
    const snapshotOf = async (id: number | null): Promise<SnapshotRow | null> =>
      id === null ? null : services.snapshots.find(id, engagementId)
    await services.windows.choose(window, await snapshotOf(body.before), await snapshotOf(body.after))
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'window snapshots chosen',
      detail: { title: window.title, before: body.before, after: body.after },
    })
    return undefined
  }),
  route(downloadWindowReport, async ({ services, engagementId, params, response }) => {
    const window = await services.windows.find(params.window, engagementId)
    const format = params.format
    if (!Object.hasOwn(FORMATS, format))
      throw new Problem(404, `There is no format "${format}" (available: ${Object.keys(FORMATS).join(', ')}).`)
    const document = await windowDocument(services, window)
    const { checks } = await checkShelf(services.changes, engagementId)
    const body =
      format === 'pdf'
        ? await services.reports.printComparison(document, checks)
        : format === 'md'
          ? comparisonMarkdown(document, checks)
          : comparisonHtml(document, checks)
    download(response, `window-${window.id}.${format}`, FORMATS[format as keyof typeof FORMATS].type, body)
    return undefined
  }),
]
