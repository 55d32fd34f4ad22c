import { z } from 'zod'

/** Who may do what in an engagement. Each route names one permission; the table is the whole of the policy. */
export const ROLES = ['lead', 'auditor', 'engineer', 'reader'] as const
export type Role = (typeof ROLES)[number]
export const roleSchema = z.enum(ROLES)

export type Permission =
  | 'read'
  | 'import'
  | 'collect'
  | 'fit'
  | 'run'
  | 'waive'
  | 'attest'
  | 'remediate'
  | 'describe'
  | 'writeRules'
  | 'exportSecrets'
  | 'manage'

export const MAY: Readonly<Record<Permission, readonly Role[]>> = {
  /** Estate, snapshots, verdicts, masked reports. */
  read: ['lead', 'auditor', 'engineer', 'reader'],
  /** New snapshots. */
  import: ['lead', 'auditor', 'engineer'],
  /** Collecting records from devices, with credentials that the user cannot read. */
  collect: ['lead', 'auditor', 'engineer'],
  /** Profile and values of benchmarks. */
  fit: ['lead', 'auditor'],
  /** Accepting findings for a time. */
  waive: ['lead', 'auditor'],
  /** Answers to questions that only a person can answer. */
  attest: ['lead', 'auditor', 'engineer'],
  /** What devices had to change marked as done. */
  remediate: ['lead', 'auditor', 'engineer'],
  /** What people say of devices: labels, sites, groups, approved versions. */
  describe: ['lead', 'auditor', 'engineer'],
  /** Rules of one's own, tried and saved. */
  writeRules: ['lead', 'auditor'],
  /** Audits. */
  run: ['lead', 'auditor'],
  /** Remedies with their real secrets, each download logged. */
  exportSecrets: ['lead', 'engineer'],
  /** Members and the activity log. */
  manage: ['lead'],
}

export function may(role: Role, permission: Permission): boolean {
  return MAY[permission].includes(role)
}

/** Whether a role may do each thing. */
export function allowedTo(role: Role): Readonly<Record<Permission, boolean>> {
  return Object.fromEntries(
    Object.entries(MAY).map(([permission, roles]) => [permission, roles.includes(role)]),
  ) as Record<Permission, boolean>
}
