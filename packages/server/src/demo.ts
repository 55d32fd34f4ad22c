import { readFileSync, readdirSync } from 'node:fs'
import { join, relative } from 'node:path'
import { parse } from 'yaml'
import { z } from 'zod'
import type { SnapshotFile } from '@jurybox/core'
import { approvalSchema, exceptionSchema, labelSchema } from '@jurybox/core/estate'
import { ROLES } from '@jurybox/api/roles'
import type { Desk, SimulatedNetwork } from '@jurybox/simulator'
import { Alerts } from './alerts/entity.ts'
import { Approvals } from './approvals/entity.ts'
import { Groups } from './groups/entity.ts'
import { Labels } from './labels/entity.ts'
import { Sites } from './estate/entity.ts'
import { Engagements, Memberships } from './engagements/entity.ts'
import { Fittings } from './benchmarks/entity.ts'
import { DeviceConnections } from './collect/entity.ts'
import { Users, type User } from './auth/entity.ts'
import type { SnapshotRow } from './snapshots/entity.ts'
import { ChangeWindows } from './windows/entity.ts'
import type { Services } from './services.ts'

const valueSchema = z.union([z.string(), z.number(), z.array(z.string())])

/** `scenario/engagement.yaml`: the people, the period and the fitted benchmarks of the demo. */
const scenarioSchema = z.strictObject({
  title: z.string(),
  client: z.string(),
  password: z.string(),
  people: z.array(z.strictObject({ name: z.string(), fullName: z.string(), role: z.enum(ROLES) })).min(1),
  fittings: z.record(z.string(), z.strictObject({ profile: z.string(), values: z.record(z.string(), valueSchema) })),
  snapshots: z.array(z.strictObject({ folder: z.string(), title: z.string(), takenAt: z.iso.datetime() })),
  sites: z.array(z.strictObject({ name: z.string(), title: z.string(), around: z.string().nullable() })).default([]),
  labels: z.array(labelSchema).default([]),
  groups: z
    .array(
      z.strictObject({ title: z.string(), kind: z.enum(['filter', 'search']), text: z.string(), counted: z.boolean() }),
    )
    .default([]),
  /** Places of guests, as traffic names them. */
  guests: z.array(z.string()).default([]),
  /** Reference configurations beside this file. */
  references: z.string().nullable().default(null),
  /** Windows that are over, and the snapshots that were taken before and after, by title. */
  windows: z
    .array(
      z.strictObject({
        title: z.string(),
        reason: z.string(),
        beginsAt: z.iso.datetime(),
        endsAt: z.iso.datetime(),
        devices: z.array(z.string()).min(1),
        checks: z.string().nullable(),
        before: z.string(),
        after: z.string(),
      }),
    )
    .default([]),
  /** Snapshots whose configurations somebody approved, by title. */
  approvedStates: z
    .array(z.strictObject({ snapshot: z.string(), reason: z.string(), at: z.iso.datetime() }))
    .default([]),
  approvals: z.array(approvalSchema).default([]),
  exceptions: z.array(exceptionSchema).default([]),
})

export interface DemoPeople {
  readonly people: readonly { name: string; fullName: string; role: string }[]
  readonly password: string
}

/** Loads the demo engagement once; a second call finds it there. */
export async function loadDemo(services: Services, scenarioFolder: string): Promise<DemoPeople> {
  const scenario = scenarioSchema.parse(parse(readFileSync(join(scenarioFolder, 'engagement.yaml'), 'utf8')))
  if ((await services.database.getRepository(Users).count()) > 0) return scenario
  const users: User[] = []
  for (const [i, { name, fullName }] of scenario.people.entries())
    users.push(
      await services.createUser({ name, fullName, password: scenario.password, isAdmin: i === 0, mayOpen: i === 0 }),
    )
  const [lead, ...others] = users
  if (!lead) return scenario
  const engagement = await services.createEngagement(scenario, lead)
  for (const [i, user] of others.entries()) {
    await services.database
      .getRepository(Memberships)
      .insert({ engagementId: engagement.id, userId: user.id, role: scenario.people[i + 1]?.role ?? 'reader' })
  }
  for (const [benchmark, { profile, values }] of Object.entries(scenario.fittings)) {
    await services.database
      .getRepository(Fittings)
      .insert({
        engagementId: engagement.id,
        benchmark,
        profile,
        valueSet: values,
        overrides: [],
        tailoring: [],
        setBy: lead.id,
        setAt: new Date(),
      })
  }
  const common = { engagementId: engagement.id, createdBy: lead.id, createdAt: new Date() }
  const { database } = services
  await database.getRepository(Sites).insert(scenario.sites.map((site) => ({ ...site, engagementId: engagement.id })))
  await database.getRepository(Labels).insert(scenario.labels.map((label) => ({ ...label, ...common })))
  await database.getRepository(Groups).insert(scenario.groups.map((group) => ({ ...group, ...common })))
  await database
    .getRepository(Approvals)
    .save([
      ...scenario.approvals.map((body) => ({
        kind: 'version' as const,
        body,
        createdByName: lead.fullName,
        ...common,
      })),
      ...scenario.exceptions.map((body) => ({
        kind: 'exception' as const,
        body,
        createdByName: lead.fullName,
        ...common,
      })),
    ])
  for (const { folder, title, takenAt } of scenario.snapshots) {
    const intake = await services.snapshots.importFolders(
      [filesIn(join(scenarioFolder, folder))],
      engagement.id,
      lead.id,
    )
    const snapshot = await services.snapshots.freeze(intake, {
      title,
      note: intake.taken.note,
      takenAt: new Date(takenAt),
      settled: [],
      userId: lead.id,
    })
    const choices = await Promise.all(
      Object.keys(scenario.fittings).map((id) => services.benchmarks.choice(engagement.id, id, undefined)),
    )
    const job = await services.audits.start(engagement.id, lead.id, snapshot, choices)
    await finished(services, job.id, engagement.id)
  }
  await addChanges(services, scenario, scenarioFolder, engagement.id, lead)
  return scenario
}

/** What was agreed and approved of changes before the demo begins. */
async function addChanges(
  services: Services,
  { guests, references, windows, approvedStates }: z.infer<typeof scenarioSchema>,
  folder: string,
  engagementId: number,
  lead: User,
): Promise<void> {
  const { changes, database, snapshots } = services
  await database.getRepository(Engagements).update({ id: engagementId }, { guests })
  if (references !== null)
    await changes.save(engagementId, 'references', readFileSync(join(folder, references), 'utf8'), lead)
  const all = await snapshots.list(engagementId)
  const titled = (title: string): SnapshotRow => {
    const found = all.find((snapshot) => snapshot.title === title)
    if (!found) throw new Error(`The scenario has no snapshot "${title}".`)
    return found
  }
  for (const { snapshot, reason, at } of approvedStates) {
    const ids = (await services.estate.devices(titled(snapshot))).map(({ id }) => id)
    await changes.approve(titled(snapshot), ids, reason, lead, new Date(at))
  }
  for (const { before, after, beginsAt, endsAt, ...plan } of windows)
    await database
      .getRepository(ChangeWindows)
      .insert({
        ...plan,
        engagementId,
        state: 'closed',
        beginsAt: new Date(beginsAt),
        endsAt: new Date(endsAt),
        beforeId: titled(before).id,
        afterId: titled(after).id,
        problem: '',
        createdBy: lead.id,
        createdByName: lead.fullName,
        createdAt: new Date(beginsAt),
        changedAt: new Date(endsAt),
      })
}

/** Goes to the desk of the demo network. */
const DEMO_ALERT = 'Audit team'

/** The devices of the demo answer on ports of their own, other ones at each start; their account is in the vault. */
export async function connectDemo(
  services: Services,
  { devices, accounts, sharedPort }: SimulatedNetwork,
  desk: Desk | null = null,
): Promise<void> {
  const engagement = await services.database.getRepository(Engagements).findOneBy({})
  if (!engagement) return
  const lead = await services.database.getRepository(Users).findOneByOrFail({})
  const { credentials } = services.collecting
  if ((await credentials.list(engagement.id)).length === 0)
    for (const { user, password, privileged } of accounts)
      await credentials.add(engagement.id, lead.id, {
        title: 'Audit account of the demo network',
        user,
        password,
        ...(privileged ? { privileged } : {}),
      })
  const known = new Map((await services.collecting.connections(engagement.id)).map((reach) => [reach.device, reach]))
  // A simulated device makes its host key when it starts.
  await services.database.getRepository(DeviceConnections).save(
    devices
      .filter(({ untold }) => !untold)
      .map(({ name, dialect, port: own, address, speaksNetconf, snmpPort }) => {
        const port = address === '127.0.0.1' ? own : (sharedPort ?? own)
        return {
          netconfPort: speaksNetconf ? port : null,
          snmpPort,
          engagementId: engagement.id,
          device: name,
          dialect,
          address,
          port,
          old: false,
          hostKey: null,
          credentialId: known.get(name)?.credentialId ?? null,
        }
      }),
  )
  // Devices are tried where they say that they are, and reached on loopback.
  if (sharedPort !== null)
    await services.database
      .getRepository(Engagements)
      .update(
        { id: engagement.id },
        { connectRanges: ['10.40.0.0/16'], translations: [{ from: '10.40.0.0/16', to: '127.40.0.0/16' }] },
      )
  if (!desk) return
  const alerts = services.database.getRepository(Alerts)
  const alert =
    (await alerts.findOneBy({ engagementId: engagement.id, title: DEMO_ALERT })) ??
    alerts.create({
      engagementId: engagement.id,
      title: DEMO_ALERT,
      channel: 'mail',
      secret: null,
      kinds: ['new', 'resolved', 'drift', 'collection', 'expectation'],
      severity: 'low',
      cron: null,
      zone: 'UTC',
      paused: false,
      createdBy: lead.id,
      createdAt: new Date(),
    })
  await alerts.save({
    ...alert,
    settings: {
      host: '127.0.0.1',
      port: desk.smtpPort,
      tls: 'none',
      from: 'jury-box@ferries.example',
      to: ['audit-team@ferries.example'],
    },
  })
}

async function finished(services: Services, jobId: number, engagementId: number): Promise<void> {
  while ((await services.jobs.find(jobId, engagementId))?.state === 'running')
    await new Promise((resolve) => setTimeout(resolve, 100))
}

function filesIn(folder: string): SnapshotFile[] {
  return readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name))
    .sort()
    .map((path) => ({ path: relative(folder, path), bytes: new Uint8Array(readFileSync(path)) }))
}
