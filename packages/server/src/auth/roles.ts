/** Who may do what in an engagement. Each route names one permission; the table is the whole of the policy. */
export const ROLES = ['lead', 'auditor', 'engineer', 'reader'] as const
export type Role = (typeof ROLES)[number]

export type Permission = 'read' | 'bring-in' | 'fit' | 'run' | 'take-commands' | 'manage'

export const MAY: Readonly<Record<Permission, readonly Role[]>> = {
  /** Estate, snapshots, verdicts, masked reports. */
  read: ['lead', 'auditor', 'engineer', 'reader'],
  /** New snapshots. */
  'bring-in': ['lead', 'auditor', 'engineer'],
  /** Profile and values of benchmarks. */
  fit: ['lead', 'auditor'],
  /** Audits. */
  run: ['lead', 'auditor'],
  /** Remedies with their real secrets, each download logged. */
  'take-commands': ['lead', 'engineer'],
  /** Members and the activity log. */
  manage: ['lead'],
}

export function may(role: Role, permission: Permission): boolean {
  return MAY[permission].includes(role)
}
