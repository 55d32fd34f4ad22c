import type { ChronicleEvent, EventKind } from '@jurybox/api/chronicle'
import { t } from '../messages/index.ts'

export const KIND_WORDS: Readonly<Record<EventKind, string>> = {
  snapshot: t('common.snapshots'),
  change: t('chronicle.configurationChanges'),
  finding: t('chronicle.findings'),
  expectation: t('chronicle.expectations'),
  incident: t('chronicle.incidents'),
  window: t('chronicle.windows'),
  approval: t('chronicle.approvals'),
}

/** What happened, in words. */
export function eventWords({ code, title, devices, count, resolved }: ChronicleEvent): string {
  const named = devices.join(', ')
  switch (code) {
    case 'snapshot-taken':
      return t('chronicle.snapshotTaken', { title })
    case 'configuration-changed':
      return t('chronicle.configurationChanged', { device: named })
    case 'change-reported':
      return t('chronicle.changeReported', { device: named })
    case 'findings-turned':
      return t('chronicle.findingsTurned', { count, resolved })
    case 'expectation-violated':
      return t('chronicle.expectationViolated', { title })
    case 'expectation-met':
      return t('chronicle.expectationMet', { title })
    case 'expectation-undecided':
      return t('chronicle.expectationUndecided', { title })
    case 'device-not-reached':
      return t('chronicle.deviceNotReached', { devices: named })
    case 'session-down':
      return t('chronicle.sessionDown', { title, device: named })
    case 'interface-down':
      return t('chronicle.interfaceDown', { title, device: named })
    case 'window':
      return t('chronicle.windowOf', { title, devices: named })
    case 'snapshot-approved':
      return t('chronicle.snapshotApproved', { title })
    case 'state-approved':
      return t('chronicle.stateApproved', { device: named, reason: title })
  }
}
