import {
  mdiBookOpenPageVariantOutline,
  mdiCameraOutline,
  mdiFileDocumentOutline,
  mdiRouterNetwork,
  mdiScaleBalance,
  mdiSwapHorizontal,
  mdiTransitConnectionVariant,
  mdiViewQuiltOutline,
} from '@mdi/js'
import type { Component } from 'vue'
import { t } from './messages/index.ts'

/** A page of an engagement: router, rail, titles, search and help are made from this list. */
export interface Page {
  /** Below the engagement, in the router's form. */
  readonly path: string
  readonly title: string
  readonly component: () => Promise<Component>
  /** Whether the evidence panel belongs to it. */
  readonly evidence?: true
  /** The icon in the rail, of the main pages. */
  readonly icon?: string
  /** Other words under which the search finds it; pages with a parameter are not found. */
  readonly alias?: string
  /** The task of the guide that explains it. */
  readonly help: string
}

export const PAGES: readonly Page[] = [
  {
    path: 'overview',
    title: t('frame.overview'),
    component: () => import('./overview/OverviewPage.vue'),
    icon: mdiViewQuiltOutline,
    help: 'read-verdicts',
  },
  {
    path: 'search',
    title: t('common.search'),
    component: () => import('./search/SearchPage.vue'),
    evidence: true,
    help: 'search',
  },
  { path: 'estate/map', title: t('frame.map'), component: () => import('./estate/MapPage.vue'), help: 'estate' },
  {
    path: 'estate/tables',
    title: t('frame.tables'),
    component: () => import('./estate/TablesPage.vue'),
    evidence: true,
    help: 'estate',
  },
  {
    path: 'estate/groups',
    title: t('common.groups'),
    component: () => import('./estate/GroupsPage.vue'),
    help: 'groups-and-labels',
  },
  {
    path: 'estate/labels',
    title: t('frame.labelsAndSites'),
    component: () => import('./estate/LabelsPage.vue'),
    help: 'groups-and-labels',
  },
  {
    path: 'estate/versions',
    title: t('frame.approvedVersions'),
    component: () => import('./estate/VersionsPage.vue'),
    alias: t('frame.aliasVersions'),
    help: 'approved-versions',
  },
  {
    path: 'estate',
    title: t('frame.estate'),
    component: () => import('./estate/EstatePage.vue'),
    icon: mdiRouterNetwork,
    alias: t('frame.aliasEstate'),
    help: 'estate',
  },
  {
    path: 'estate/:device(\\d+)',
    title: t('common.device'),
    component: () => import('./estate/DevicePage.vue'),
    evidence: true,
    help: 'estate',
  },
  {
    path: 'snapshots',
    title: t('common.snapshots'),
    component: () => import('./snapshots/SnapshotsPage.vue'),
    evidence: true,
    icon: mdiCameraOutline,
    alias: t('frame.aliasSnapshots'),
    help: 'import-configurations',
  },
  {
    path: 'snapshots/collect',
    title: t('frame.collection'),
    component: () => import('./collect/CollectPage.vue'),
    alias: t('frame.aliasCollection'),
    help: 'collect-from-devices',
  },
  {
    path: 'snapshots/discover',
    title: t('frame.discovery'),
    component: () => import('./collect/DiscoverPage.vue'),
    help: 'discover-devices',
  },
  {
    path: 'set-up',
    title: t('frame.setup'),
    component: () => import('./collect/SetUpPage.vue'),
    alias: t('frame.aliasSetup'),
    help: 'collect-from-devices',
  },
  {
    path: 'benchmarks',
    title: t('common.benchmarks'),
    component: () => import('./benchmarks/BenchmarksPage.vue'),
    icon: mdiBookOpenPageVariantOutline,
    help: 'fit-a-benchmark',
  },
  {
    path: 'benchmarks/:benchmark',
    title: t('frame.benchmark'),
    component: () => import('./benchmarks/BenchmarkPage.vue'),
    help: 'fit-a-benchmark',
  },
  {
    path: 'rule-bench',
    title: t('frame.ruleEditor'),
    component: () => import('./rules/RuleBench.vue'),
    alias: t('frame.aliasRules'),
    help: 'write-a-rule',
  },
  {
    path: 'verdicts',
    title: t('common.verdicts'),
    component: () => import('./verdicts/VerdictsPage.vue'),
    icon: mdiScaleBalance,
    alias: t('frame.aliasVerdicts'),
    help: 'read-verdicts',
  },
  {
    path: 'verdicts/:audit(\\d+)/:verdict(\\d+)',
    title: t('frame.verdict'),
    component: () => import('./verdicts/VerdictPage.vue'),
    evidence: true,
    help: 'read-verdicts',
  },
  {
    path: 'traffic',
    title: t('frame.traffic'),
    component: () => import('./traffic/ExpectationsPage.vue'),
    evidence: true,
    icon: mdiTransitConnectionVariant,
    alias: t('frame.aliasExpectations'),
    help: 'verify-traffic',
  },
  {
    path: 'traffic/ask',
    title: t('frame.askAboutTraffic'),
    component: () => import('./traffic/AskPage.vue'),
    evidence: true,
    help: 'verify-traffic',
  },
  {
    path: 'traffic/filters',
    title: t('frame.accessListFindings'),
    component: () => import('./traffic/FiltersPage.vue'),
    evidence: true,
    alias: t('common.filters'),
    help: 'verify-traffic',
  },
  {
    path: 'traffic/changes',
    title: t('frame.trafficChanges'),
    component: () => import('./traffic/ChangesPage.vue'),
    evidence: true,
    help: 'verify-traffic',
  },
  {
    path: 'traffic/functions',
    title: t('frame.functions'),
    component: () => import('./traffic/FunctionsPage.vue'),
    evidence: true,
    help: 'verify-traffic',
  },
  {
    path: 'traffic/network',
    title: t('frame.networkFindings'),
    component: () => import('./traffic/NetworkPage.vue'),
    evidence: true,
    alias: t('frame.aliasNetwork'),
    help: 'verify-traffic',
  },
  {
    path: 'changes',
    title: t('frame.changes'),
    component: () => import('./changes/ChangesPage.vue'),
    icon: mdiSwapHorizontal,
    alias: t('frame.aliasChanges'),
    help: 'compare',
  },
  {
    path: 'changes/device',
    title: t('frame.deviceChanges'),
    component: () => import('./changes/DeviceChangesPage.vue'),
    evidence: true,
    help: 'compare',
  },
  {
    path: 'changes/checks',
    title: t('frame.changeChecks'),
    component: () => import('./changes/ChecksPage.vue'),
    evidence: true,
    help: 'compare',
  },
  {
    path: 'changes/windows',
    title: t('frame.changeWindows'),
    component: () => import('./changes/WindowsPage.vue'),
    evidence: true,
    alias: t('frame.aliasWindows'),
    help: 'compare',
  },
  {
    path: 'changes/references',
    title: t('frame.references'),
    component: () => import('./changes/ReferencesPage.vue'),
    evidence: true,
    alias: t('frame.aliasReferences'),
    help: 'compare',
  },
  {
    path: 'changes/drift',
    title: t('frame.drift'),
    component: () => import('./changes/DriftPage.vue'),
    help: 'compare',
  },
  {
    path: 'chronicle',
    title: t('frame.chronicle'),
    component: () => import('./chronicle/ChroniclePage.vue'),
    alias: t('frame.aliasChronicle'),
    help: 'compare',
  },
  {
    path: 'chronicle/trends',
    title: t('frame.trends'),
    component: () => import('./chronicle/TrendsPage.vue'),
    help: 'compare',
  },
  {
    path: 'verdicts/docket',
    title: t('verdicts.docket'),
    component: () => import('./verdicts/DocketPage.vue'),
    alias: t('frame.aliasDocket'),
    help: 'read-verdicts',
  },
  {
    path: 'reports',
    title: t('frame.reports'),
    component: () => import('./reports/ReportsPage.vue'),
    icon: mdiFileDocumentOutline,
    help: 'report',
  },
  {
    path: 'reports/evidence',
    title: t('reports.evidencePacks'),
    component: () => import('./reports/EvidencePage.vue'),
    alias: t('frame.aliasEvidence'),
    help: 'report',
  },
  {
    path: 'installation',
    title: t('frame.installation'),
    component: () => import('./settings/InstallationPage.vue'),
    alias: t('frame.aliasInstallation'),
    help: 'settings',
  },
  { path: 'glossary', title: t('frame.glossary'), component: () => import('./help/GlossaryPage.vue'), help: 'keys' },
  { path: 'guide/:task?', title: t('frame.guide'), component: () => import('./help/GuidePage.vue'), help: 'keys' },
  {
    path: 'settings',
    title: t('frame.settings'),
    component: () => import('./settings/SettingsPage.vue'),
    alias: t('frame.aliasSettings'),
    help: 'settings',
  },
]

/** Something to do, as the search offers it: a page and what it opens there. */
export interface PageAction {
  readonly title: string
  readonly path: string
  readonly query?: Readonly<Record<string, string>>
}

export const ACTIONS: readonly PageAction[] = [
  { title: t('common.importConfigurations'), path: 'snapshots' },
  { title: t('frame.actionDiscover'), path: 'snapshots/discover' },
  { title: t('frame.actionCollect'), path: 'snapshots/collect' },
  { title: t('frame.actionAddDevices'), path: 'snapshots/collect', query: { do: 'add-devices' } },
  { title: t('frame.actionAddCredential'), path: 'snapshots/collect', query: { do: 'add-credential' } },
  { title: t('frame.actionAddSchedule'), path: 'snapshots/collect', query: { do: 'add-schedule' } },
  { title: t('frame.actionAddAlert'), path: 'snapshots/collect', query: { do: 'add-alert' } },
  { title: t('common.runAudit'), path: 'verdicts', query: { do: 'run-audit' } },
  { title: t('frame.actionWaivers'), path: 'verdicts', query: { view: 'waivers' } },
  { title: t('frame.actionRemediation'), path: 'verdicts', query: { view: 'remediation' } },
  { title: t('frame.actionWriteRule'), path: 'rule-bench' },
  { title: t('frame.actionReviews'), path: 'benchmarks' },
  { title: t('frame.actionReport'), path: 'reports' },
]
