import type { ComparisonDocument } from '@jurybox/core/report'
import { Problem } from '../http/problem.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import type { ChangeWindow } from './entity.ts'
import type { WindowService } from './service.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly snapshots: SnapshotService
  readonly windows: WindowService
}

/** A snapshot with its time; null where there is none. */
export async function momentOf({ snapshots }: Pick<Needs, 'snapshots'>, id: number | null, engagementId: number) {
  if (id === null) return null
  const { title, takenAt }: SnapshotRow = await snapshots.find(id, engagementId)
  return { id, title, takenAt: takenAt.toISOString() }
}

/** The window as the document that its report is written from. */
export async function windowDocument(services: Needs, window: ChangeWindow): Promise<ComparisonDocument> {
  const results = await services.windows.results(window)
  const [a, b] = [
    await momentOf(services, window.beforeId, window.engagementId),
    await momentOf(services, window.afterId, window.engagementId),
  ]
  if (!results || !a || !b) throw new Problem(422, 'The window has no snapshot before or after the change yet.')
  const [from, to] = [window.beginsAt, window.endsAt].map((at) => at.toISOString())
  return {
    schema: 1,
    title: `Change window: ${window.title}`,
    a,
    b,
    notes: [
      `Planned for ${window.devices.join(', ')}, from ${from} to ${to}`,
      ...(window.reason === '' ? [] : [`Reason: ${window.reason}`]),
      `Planned by ${window.createdByName}`,
      results.unplanned.length === 0
        ? 'No device outside of the plan changed.'
        : `Changed outside of the plan: ${results.unplanned.map(({ device }) => device.name).join(', ')}`,
    ],
    flows: null,
    devices: [...results.changes, ...results.unplanned].map(({ device, standing, compared }) => ({
      name: device.name,
      standing: standing === 'carried' ? 'same' : standing,
      comparison: compared?.comparison ?? null,
    })),
    checks: results.checked.map(({ device, results: own }) => ({ device: device?.name ?? null, results: own })),
  }
}
