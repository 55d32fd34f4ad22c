/**
 * The contract between server and clients: what each route takes and returns, who may call it, and the events. One file
 * for each capability; the server implements the endpoints, the browser calls them, OpenAPI is generated from them.
 */
import * as accounts from './accounts.ts'
import * as alerts from './alerts.ts'
import * as approvals from './approvals.ts'
import * as archive from './archive.ts'
import * as audits from './audits.ts'
import * as benchmarks from './benchmarks.ts'
import * as changes from './changes.ts'
import * as checks from './checks.ts'
import * as chronicle from './chronicle.ts'
import * as collecting from './collecting.ts'
import * as devices from './devices.ts'
import * as dialects from './dialects.ts'
import * as discovery from './discovery.ts'
import * as docket from './docket.ts'
import * as docs from './docs.ts'
import * as drift from './drift.ts'
import * as engagements from './engagements.ts'
import * as estate from './estate.ts'
import * as evidence from './evidence.ts'
import * as data from './data.ts'
import * as exchange from './exchange.ts'
import * as findings from './findings.ts'
import * as glossary from './glossary.ts'
import * as groups from './groups.ts'
import * as installation from './installation.ts'
import * as jobs from './jobs.ts'
import * as labels from './labels.ts'
import * as modelNames from './model-names.ts'
import * as overview from './overview.ts'
import * as questions from './questions.ts'
import * as references from './references.ts'
import * as remediation from './remediation.ts'
import * as reports from './reports.ts'
import * as rules from './rules.ts'
import * as schedules from './schedules.ts'
import * as search from './search.ts'
import * as sessions from './sessions.ts'
import * as snapshots from './snapshots.ts'
import * as traffic from './traffic.ts'
import * as views from './views.ts'
import * as waivers from './waivers.ts'
import * as windows from './windows.ts'
import type { Endpoint } from './endpoint.ts'

const CAPABILITIES: readonly Readonly<Record<string, unknown>>[] = [
  accounts,
  alerts,
  approvals,
  archive,
  audits,
  benchmarks,
  changes,
  checks,
  chronicle,
  collecting,
  devices,
  dialects,
  discovery,
  docket,
  docs,
  drift,
  engagements,
  estate,
  evidence,
  data,
  exchange,
  findings,
  glossary,
  groups,
  installation,
  jobs,
  labels,
  modelNames,
  overview,
  questions,
  references,
  remediation,
  reports,
  rules,
  schedules,
  search,
  sessions,
  snapshots,
  traffic,
  views,
  waivers,
  windows,
]

function isEndpoint(value: unknown): value is Endpoint {
  return typeof value === 'object' && value !== null && 'method' in value && 'path' in value && 'access' in value
}

/** Every endpoint there is, with its name. */
export const ENDPOINTS: ReadonlyMap<string, Endpoint> = new Map(
  CAPABILITIES.flatMap((capability) =>
    Object.entries(capability).flatMap(([name, value]) => (isEndpoint(value) ? [[name, value] as const] : [])),
  ),
)
