import { activityRoutes } from './activity/routes.ts'
import { alertRoutes } from './alerts/routes.ts'
import { approvalRoutes } from './approvals/routes.ts'
import { archiveRoutes } from './archive/routes.ts'
import { auditRoutes } from './audits/routes.ts'
import { attestationRoutes } from './attestations/routes.ts'
import { accountRoutes } from './auth/account-routes.ts'
import { authRoutes } from './auth/routes.ts'
import { benchmarkRoutes } from './benchmarks/routes.ts'
import { driftRoutes } from './changes/drift-routes.ts'
import { referenceRoutes } from './changes/reference-routes.ts'
import { chronicleRoutes } from './chronicle/routes.ts'
import { docketRoutes } from './docket/routes.ts'
import { changeRoutes } from './changes/routes.ts'
import { collectRoutes } from './collect/routes.ts'
import { docsRoutes } from './docs/routes.ts'
import { engagementRoutes } from './engagements/routes.ts'
import { dialectRoutes } from './dialects/routes.ts'
import { discoveryRoutes } from './discovery/routes.ts'
import { acrossRoutes } from './estate/across-routes.ts'
import { estateRoutes } from './estate/routes.ts'
import { modelNameRoutes } from './estate/model-names-routes.ts'
import { glossaryRoutes } from './glossary/routes.ts'
import { groupRoutes } from './groups/routes.ts'
import type { Route } from './http/route.ts'
import { jobRoutes } from './jobs/routes.ts'
import { labelRoutes } from './labels/routes.ts'
import { operationRoutes } from './operation/routes.ts'
import { overviewRoutes } from './overview/routes.ts'
import { reportRoutes } from './reports/routes.ts'
import { ruleRoutes } from './rules/routes.ts'
import { scheduleRoutes } from './schedules/routes.ts'
import { searchRoutes } from './search/routes.ts'
import { snapshotRoutes } from './snapshots/routes.ts'
import { evidenceRoutes } from './evidence/routes.ts'
import { dataRoutes } from './data/routes.ts'
import { exchangeRoutes } from './exchange/routes.ts'
import { findingRoutes } from './findings/routes.ts'
import { trafficRoutes } from './traffic/routes.ts'
import { viewRoutes } from './views/routes.ts'
import { windowRoutes } from './windows/routes.ts'
import { checkRoutes } from './changes/check-routes.ts'
import { waiverRoutes } from './waivers/routes.ts'

/** Every route there is. */
export const ROUTES: readonly Route[] = [
  ...authRoutes,
  ...accountRoutes,
  ...operationRoutes,
  ...engagementRoutes,
  ...activityRoutes,
  ...estateRoutes,
  ...modelNameRoutes,
  ...dialectRoutes,
  ...glossaryRoutes,
  ...snapshotRoutes,
  ...benchmarkRoutes,
  ...jobRoutes,
  ...auditRoutes,
  ...reportRoutes,
  ...evidenceRoutes,
  ...dataRoutes,
  ...exchangeRoutes,
  ...searchRoutes,
  ...viewRoutes,
  ...waiverRoutes,
  ...attestationRoutes,
  ...ruleRoutes,
  ...findingRoutes,
  ...collectRoutes,
  ...scheduleRoutes,
  ...archiveRoutes,
  ...alertRoutes,
  ...acrossRoutes,
  ...labelRoutes,
  ...groupRoutes,
  ...approvalRoutes,
  ...overviewRoutes,
  ...discoveryRoutes,
  ...trafficRoutes,
  ...changeRoutes,
  ...checkRoutes,
  ...chronicleRoutes,
  ...docketRoutes,
  ...referenceRoutes,
  ...driftRoutes,
  ...windowRoutes,
  ...docsRoutes,
]
