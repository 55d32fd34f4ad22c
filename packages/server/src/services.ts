import { randomBytes } from 'node:crypto'
import { setMaxListeners } from 'node:events'
import type { Logger } from 'pino'
import type { DataSource } from 'typeorm'
import { ActivityLog } from './activity/activity.ts'
import { LogAnchor } from './activity/anchor.ts'
import { AlertService } from './alerts/service.ts'
import { ArchiveService } from './archive/service.ts'
import { SealedVerdicts } from './audits/sealed-verdicts.ts'
import { AuditService } from './audits/service.ts'
import { hashPassword } from './auth/passwords.ts'
import { LoginAttempts } from './auth/login-attempts.ts'
import { SecondFactor } from './auth/second-factor.ts'
import { SessionStore } from './auth/sessions.ts'
import { BenchmarkRepository } from './benchmarks/repository.ts'
import { ChangeService } from './changes/service.ts'
import { CollectService } from './collect/service.ts'
import { Engagements, Memberships, type Engagement } from './engagements/entity.ts'
import { Users, type User } from './auth/entity.ts'
import { DiscoveryService } from './discovery/service.ts'
import { EstateService } from './estate/service.ts'
import { JobBoard } from './jobs/board.ts'
import { FreeSpace } from './operation/availability.ts'
import { KeyChange } from './operation/key-change.ts'
import { Metrics } from './operation/metrics.ts'
import type { Settings } from './operation/settings.ts'
import { LabelService } from './labels/service.ts'
import { Trial } from './rules/trial.ts'
import { TrialCount } from './rules/trial-count.ts'
import { ScheduleService } from './schedules/service.ts'
import { AnalysisPool } from './analysis/pool.ts'
import { Readings } from './snapshots/readings.ts'
import { Workbench } from './outside/workbench.ts'
import { RecordStore } from './snapshots/records.ts'
import { SnapshotService } from './snapshots/service.ts'
import { TrafficService } from './traffic/service.ts'
import type { Vault } from './vault/vault.ts'
import { FindingService } from './findings/service.ts'
import { WindowService } from './windows/service.ts'
import { TokenStore } from './data/tokens.ts'
import { ReportService } from './reports/service.ts'
import { EvidenceService } from './evidence/service.ts'
import { WaiverService } from './waivers/service.ts'

type NewAccount = { readonly name: string; readonly fullName: string; readonly password: string } & Partial<
  Pick<User, 'isAdmin' | 'mayOpen' | 'mustChange'>
>

/** Everything the routes work with; one of each a process. */
export class Services {
  readonly sessions: SessionStore
  readonly keyChange: KeyChange
  readonly sealedVerdicts: SealedVerdicts
  readonly secondFactor: SecondFactor
  readonly guesses = new LoginAttempts()
  readonly activity: ActivityLog
  readonly outside = new Workbench()
  readonly records: RecordStore
  /** Where devices stay read for whoever judges them or looks at them. */
  readonly analyses = new AnalysisPool()
  readonly readings: Readings
  readonly snapshots: SnapshotService
  readonly benchmarks: BenchmarkRepository
  readonly jobs: JobBoard
  readonly audits: AuditService
  readonly waivers: WaiverService
  readonly findings: FindingService
  readonly changes: ChangeService
  readonly trial: Trial
  readonly trials: TrialCount
  readonly collecting: CollectService
  readonly schedules: ScheduleService
  readonly windows: WindowService
  readonly alerts: AlertService
  readonly archive: ArchiveService
  readonly estate: EstateService
  readonly evidence: EvidenceService
  readonly reports: ReportService
  readonly tokens: TokenStore
  readonly labels: LabelService
  readonly discovery: DiscoveryService
  readonly traffic: TrafficService
  readonly metrics: Metrics
  /** Aborted when the server stops. */
  readonly closing = new AbortController()
  /** One-time code for the first user; null once there is one. */
  setupCode: string | null = null

  constructor(
    readonly database: DataSource,
    readonly vault: Vault,
    readonly log: Logger,
    readonly build: string,
    readonly settings: Settings,
    readonly space: FreeSpace,
  ) {
    this.metrics = new Metrics(database, space)
    this.sessions = new SessionStore(database)
    // One for each page that listens.
    setMaxListeners(0, this.closing.signal)
    this.sealedVerdicts = new SealedVerdicts(database, vault)
    this.keyChange = new KeyChange(database, vault, space.folder, log)
    this.secondFactor = new SecondFactor(database, vault)
    this.activity = new ActivityLog(database, new LogAnchor(space.folder, vault))
    this.records = new RecordStore(database, vault, this.outside, log)
    this.readings = new Readings(database, this.records, build, this.analyses)
    this.snapshots = new SnapshotService(database, this.records, this.outside, build)
    this.benchmarks = new BenchmarkRepository(database)
    this.jobs = new JobBoard(database, log)
    this.estate = new EstateService(this)
    this.labels = new LabelService(this)
    this.discovery = new DiscoveryService(this)
    this.traffic = new TrafficService(this)
    // Facts may be other ones: labels follow them.
    this.snapshots.whenFrozen = async (snapshot) => {
      const { engagementId } = snapshot
      await this.labels.applyRules(engagementId)
      this.estate.changed(engagementId)
      // Whoever froze it does not wait for what becomes of every packet.
      void this.alerts.afterSnapshot(snapshot)
    }
    this.waivers = new WaiverService(database, this.activity)
    this.findings = new FindingService(database, this.activity)
    this.audits = new AuditService(this)
    this.changes = new ChangeService(this)
    this.trial = new Trial(this)
    this.trials = new TrialCount(this.activity)
    this.collecting = new CollectService(this)
    this.schedules = new ScheduleService(this)
    this.schedules.whenHeard = async (message) => this.changes.heard(message)
    this.windows = new WindowService(this)
    this.alerts = new AlertService(this)
    this.archive = new ArchiveService(this)
    this.evidence = new EvidenceService(this)
    this.tokens = new TokenStore(database)
    this.reports = new ReportService(this)
    this.audits.whenAudited = async (audit) => this.reports.audited(audit)
  }

  async createUser({ name, fullName, password, ...rights }: NewAccount): Promise<User> {
    const users = this.database.getRepository(Users)
    const { id } = await users.save(
      users.create({ name, fullName, passwordHash: await hashPassword(password), createdAt: new Date(), ...rights }),
    )
    return users.findOneByOrFail({ id })
  }

  /** Opens an engagement with its own key for masking, and its creator as lead. */
  async createEngagement({ title, client }: { title: string; client: string }, lead: User): Promise<Engagement> {
    const engagements = this.database.getRepository(Engagements)
    const maskKey = this.vault.seal(randomBytes(32), 'mask key')
    const engagement = await engagements.save(
      engagements.create({
        title,
        client,
        periodFrom: null,
        periodTo: null,
        connectRanges: [],
        translations: [],
        modelNames: [],
        guests: [],
        maskKey,
        createdAt: new Date(),
      }),
    )
    await this.database
      .getRepository(Memberships)
      .insert({ engagementId: engagement.id, userId: lead.id, role: 'lead' })
    await this.activity.add({
      userId: lead.id,
      engagementId: engagement.id,
      action: 'engagement opened',
      detail: { title },
    })
    return engagement
  }

  async close(): Promise<void> {
    this.archive.close()
    this.changes.close()
    await this.windows.close()
    const scheduled = this.schedules.close()
    await this.discovery.close()
    await Promise.all([
      this.audits.close(),
      this.evidence.close(),
      this.reports.close(),
      this.trial.close(),
      this.collecting.close(),
      this.estate.close(),
      this.traffic.close(),
      this.readings.close(),
      this.analyses.close(),
      this.outside.close(),
    ])
    await scheduled
    await this.alerts.close()
    await this.keyChange.close()
    this.jobs.close()
    this.metrics.close()
    await this.database.destroy()
  }
}
