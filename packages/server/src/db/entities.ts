import { Activities } from '../activity/entity.ts'
import { Alerts, AlertEvents, Deliveries, AlertedEvents } from '../alerts/entity.ts'
import { Approvals } from '../approvals/entity.ts'
import { Holds, Retentions, SnapshotTags } from '../archive/entity.ts'
import { AnswerRequests, Attestations, EvidenceFiles } from '../attestations/entity.ts'
import { Audits, Verdicts, Judgements, AuditJudgements } from '../audits/entity.ts'
import { Users, Sessions } from '../auth/entity.ts'
import { BenchmarkVersions, Fittings, OwnFrameworks } from '../benchmarks/entity.ts'
import { ApprovedStates, ChangeFiles, ChangeMessages } from '../changes/entity.ts'
import { Credentials, DeviceConnections } from '../collect/entity.ts'
import { Sightings } from '../discovery/entity.ts'
import { Engagements, Memberships } from '../engagements/entity.ts'
import { Devices, Sites, Digests } from '../estate/entity.ts'
import { ApiTokens } from '../data/entity.ts'
import { EvidencePacks, LogHeads, SigningKeys } from '../evidence/entity.ts'
import { MadeReports, SavedReports } from '../reports/entity.ts'
import { Findings } from '../findings/entity.ts'
import { Groups } from '../groups/entity.ts'
import { Jobs } from '../jobs/entity.ts'
import { Labels, LabelChanges } from '../labels/entity.ts'
import { OwnBenchmarks } from '../rules/entity.ts'
import { Schedules } from '../schedules/entity.ts'
import { Contents, Records, Snapshots, SnapshotRecords } from '../snapshots/entity.ts'
import { TrafficFiles, TrafficOutcomes, TrafficConfirmations } from '../traffic/entity.ts'
import { SavedViews } from '../views/entity.ts'
import { ChangeWindows } from '../windows/entity.ts'
import { Waivers } from '../waivers/entity.ts'

/** What the database holds; each is described beside its capability. */
export const ENTITIES = [
  Activities,
  Alerts,
  AlertEvents,
  Deliveries,
  AlertedEvents,
  Approvals,
  SnapshotTags,
  Retentions,
  Holds,
  LogHeads,
  Attestations,
  AnswerRequests,
  EvidenceFiles,
  Audits,
  Verdicts,
  Judgements,
  AuditJudgements,
  Users,
  Sessions,
  BenchmarkVersions,
  Fittings,
  OwnFrameworks,
  ApprovedStates,
  ChangeFiles,
  ChangeMessages,
  Credentials,
  DeviceConnections,
  Sightings,
  Engagements,
  Memberships,
  Devices,
  Sites,
  Digests,
  EvidencePacks,
  SigningKeys,
  ApiTokens,
  SavedReports,
  MadeReports,
  Findings,
  Groups,
  Jobs,
  Labels,
  LabelChanges,
  OwnBenchmarks,
  Schedules,
  Contents,
  Records,
  Snapshots,
  SnapshotRecords,
  TrafficFiles,
  TrafficOutcomes,
  TrafficConfirmations,
  SavedViews,
  Waivers,
  ChangeWindows,
]
