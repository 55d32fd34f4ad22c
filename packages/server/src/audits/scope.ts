import type { Limit } from '@jurybox/api/audit-limit'
import { sampleOf } from '@jurybox/core/estate'
import type { AuditScope } from './entity.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import { Groups } from '../groups/entity.ts'
import { Problem } from '../http/problem.ts'
import type { DataSource } from 'typeorm'
import type { EstateService } from '../estate/service.ts'

type Sampling = Extract<NonNullable<Limit>, { sample: unknown }>['sample']

/** What is needed of the rest of the server. */
export interface Needs {
  readonly database: DataSource
  readonly estate: EstateService
}

/** The devices of a snapshot that a limit leaves. @throws Problem where it leaves none, or names what there is not */
export async function scopeOf(services: Needs, snapshot: SnapshotRow, limit: Limit): Promise<AuditScope | null> {
  if (limit === null) return null
  const scope =
    'devices' in limit
      ? await named(services, snapshot, limit.devices)
      : 'group' in limit
        ? await ofGroup(services, snapshot, limit.group)
        : 'model' in limit
          ? await ofModel(services, snapshot, limit.model)
          : await ofSample(services, snapshot, limit.sample)
  if (scope.devices.length === 0)
    throw new Problem(422, `The scope matches no device of “${snapshot.title}”: ${scope.title}.`)
  return scope
}

async function named(
  { estate }: Pick<Needs, 'estate'>,
  snapshot: SnapshotRow,
  names: readonly string[],
): Promise<AuditScope> {
  const known = new Set((await estate.devices(snapshot)).map(({ name }) => name))
  const missing = names.find((name) => !known.has(name))
  if (missing !== undefined) throw new Problem(422, `There is no device “${missing}” in “${snapshot.title}”.`)
  const devices = [...new Set(names)].sort()
  return { title: devices.length > 3 ? `${devices.length} devices` : devices.join(', '), devices }
}

async function ofGroup({ estate, database }: Needs, snapshot: SnapshotRow, title: string): Promise<AuditScope> {
  const group = await database.getRepository(Groups).findOneBy({ engagementId: snapshot.engagementId, title })
  if (!group) throw new Problem(422, `There is no group “${title}”.`)
  const members = (await estate.patiently(() => estate.members(snapshot, [group]))).get(title)
  const undecided = members?.undecided.map(({ device }) => device) ?? []
  // It is unknown whether they belong to the scope, so they are judged.
  const said = undecided.length > 0 ? `, including ${undecided.length} undecided` : ''
  return { title: `group ${title}${said}`, devices: [...new Set([...(members?.inside ?? []), ...undecided])].sort() }
}

async function ofModel({ estate }: Pick<Needs, 'estate'>, snapshot: SnapshotRow, model: string): Promise<AuditScope> {
  const running = await estate.patiently(() => estate.running(snapshot))
  return {
    title: `model ${model}`,
    devices: [...running.values()]
      .filter((device) => device.model === model)
      .map(({ name }) => name)
      .sort(),
  }
}

/** The title says population and sample, so that whoever reads a report can draw it again. */
async function ofSample(
  services: Needs,
  snapshot: SnapshotRow,
  { size, seed, group, by }: Sampling,
): Promise<AuditScope> {
  const of = group === undefined ? null : await ofGroup(services, snapshot, group)
  const running = await services.estate.patiently(() => services.estate.running(snapshot))
  const population = (await services.estate.devices(snapshot)).filter(({ name }) => of?.devices.includes(name) ?? true)
  const { names } = sampleOf(
    population.map(({ name, facts }) => ({
      name,
      strata: by.map((one) => (one === 'site' ? facts.site : running.get(name)?.model) ?? ''),
    })),
    size,
    seed,
  )
  const strata = by.length === 0 ? '' : `, stratified by ${by.join(' and ')}`
  const from = of === null ? '' : ` of ${of.title}`
  return {
    title: `a sample of ${names.length} of ${population.length} devices${from}${strata}, seed “${seed}”`,
    devices: names,
  }
}
