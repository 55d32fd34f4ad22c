/** Sentences for what was done; `{name}` stands for a part of the detail. */
const SENTENCES: Readonly<Record<string, string>> = {
  'account changed': 'Changed the account “{name}”.',
  'account created': 'Created the account “{name}”.',
  'account deleted': 'Deleted the account “{name}”.',
  'account reset': 'Reset the password of the account “{name}”.',
  'alert added': 'Added the alert “{title}” by {channel} for {kinds}.',
  'alert deleted': 'Deleted the alert “{title}”.',
  'alert failed': 'The alert “{alert}” failed after {attempts} attempts: {reason}',
  'alert paused': 'Paused the alert “{title}”.',
  'alert resumed': 'Resumed the alert “{title}”.',
  'approval exception added': 'Allowed version {version} on {device} until {until}: {reason}',
  'approval exception deleted': 'Deleted the exception for version {version} on {device}.',
  'answer request withdrawn': 'Withdrew the request for an answer to “{attestation}” of {benchmark}.',
  'answer requested': 'Asked {of} for an answer to “{attestation}” of {benchmark} until {due}.',
  'answer reviewed': 'Reviewed the answer to “{attestation}” of {benchmark}: {outcome}. {note}',
  attested: 'Answered the question “{attestation}” of {benchmark} with {outcome}.',
  'states approved': 'Approved the configurations of {devices} in snapshot {snapshot}: {reason}',
  'audit finished': 'Audit {audit} of snapshot {snapshot} finished: {counts}.',
  'audit log head was missing': 'The head of the audit log was missing. Entries before this one cannot be verified.',
  'audit started': 'Started an audit of snapshot {snapshot} with {choices}.',
  'benchmark fitted': 'Fitted the benchmark {benchmark}, profile {profile}.',
  'benchmark published': 'Published version {number} of {benchmark}.',
  'benchmark saved': 'Saved version {number} of {benchmark}: {why}',
  'carried-over device removed': 'Removed the carried-over device {device} from snapshot {snapshot}.',
  collected: 'Collected snapshot {snapshot}.',
  'change file saved': 'Saved version {version} of {kind}.',
  'collection started': 'Started a collection from {devices}.',
  'commands with secrets downloaded': 'Downloaded the commands of audit {audit} with their secrets.',
  'configurations downloaded': 'Downloaded the configurations of “{title}”.',
  'connection removed': 'Removed the connection of {device}.',
  'connections set': 'Set the connections of {devices}.',
  'credential added': 'Added the credential “{title}” for the user {user}.',
  'credential deleted': 'Deleted the credential “{title}”.',
  'device list imported': 'Imported a device list: {labels} labels, {facts} facts, {refused} refused.',
  'dialect set': 'Changed the dialect of {device} from {from} to {to}.',
  discovered: 'The discovery found {found}; vanished: {vanished}.',
  'discovery decided': 'Decided on {device} ({kind}): {said}.',
  'discovery started': 'Started a discovery.',
  'due date set': 'Set the due date of {count} findings to {due}.',
  'engagement opened': 'Opened the engagement “{title}”.',
  'evidence countersigned': 'Countersigned evidence pack {pack}.',
  'evidence downloaded': 'Downloaded evidence pack {pack} of audit {audit}.',
  'evidence packed': 'Packed and signed the evidence of audit {audit} as pack {pack}.',
  'evidence time stamped': 'Kept a time stamp of evidence pack {pack}: {at}, {authority}.',
  'evidence uploaded': 'Uploaded evidence: {files}.',
  'expectation confirmed': 'Confirmed the expectation “{expectation}”.',
  'expectations stated': 'Changed the expectations of traffic.',
  'finding assigned': 'Assigned {count} findings to {owner}.',
  'first user created': 'Created the first user “{name}”.',
  'framework deleted': 'Deleted the own controls “{title}”.',
  'framework imported': 'Imported the own controls “{title}” with {requirements} requirements.',
  'group deleted': 'Deleted the group “{title}”.',
  'group saved': 'Saved the group “{title}”: {text}',
  'guests stated': 'Set the places of guests: {places}.',
  'hold released': 'Released the legal hold “{held}”: {reason}',
  'hold set': 'Set a legal hold on {what}: {reason}',
  'host key changed': 'The host key of {device} changed.',
  'host key deleted': 'Deleted the host key of {device}.',
  'job stopped': 'Stopped job {job}.',
  'key changed': 'Changed the key of the installation.',
  'label defined': 'Defined the label “{name}” ({type}).',
  'label deleted': 'Deleted the label “{name}”.',
  'label set': 'Set the label “{label}” to “{value}” on {devices}.',
  'labels set from facts': 'Set {set} labels from facts.',
  'logo removed': 'Removed the picture of the client from reports.',
  'logo set': 'Set the picture of the client on reports.',
  'report deleted': 'Deleted the saved report “{title}”.',
  'report saved': 'Saved the report “{title}” as {format}; after each audit: {afterAudit}.',
  'links stated': 'Changed the links.',
  'member added': 'Added “{name}” as {role}.',
  'member removed': 'Removed “{name}” from the engagement.',
  'other sessions ended': 'Ended all other sessions.',
  'outside interfaces declared': 'Declared the outside interfaces: {ports}.',
  'password changed': 'Changed the own password.',
  probed: 'Ran “{command}” on {device}.',
  'remediation done': 'Marked {count} findings as done.',
  'remediation plan downloaded': 'Downloaded the remediation plan of audit {audit} as {form}.',
  'remediation reopened': 'Marked {count} findings as open.',
  'report downloaded': 'Downloaded the report of audit {audit} as {form}.',
  'retention set': 'Set retention to {days} days.',
  'role changed': 'Changed the role of “{name}” to {role}.',
  'rules tried': 'Tried rules of {benchmark}.',
  'scan ranges set': 'Set the scan ranges to {ranges}.',
  'schedule added': 'Added the schedule “{title}” ({does}, {when}).',
  'schedule changed': 'Changed the schedule “{title}” ({does}, {when}).',
  'schedule deleted': 'Deleted the schedule “{title}”.',
  'model names set': 'Set the names of models: {names}.',
  'schedule failed': 'The schedule “{schedule}” failed: {reason}',
  'schedule paused': 'Paused the schedule “{title}”.',
  'schedule resumed': 'Resumed the schedule “{title}”.',
  'schedule run': 'Ran the schedule “{title}” by hand.',
  'second factor turned off': 'Turned the second factor off.',
  'second factor turned on': 'Turned the second factor on.',
  'sign-in refused': 'Refused a sign-in as “{name}” from {address}.',
  'signed in': 'Signed in as “{name}” from {address}.',
  'site deleted': 'Deleted the site “{name}”.',
  'site set': 'Set the site “{name}”.',
  'snapshot deleted': 'Deleted the snapshot “{title}”.',
  'snapshot deleted by retention': 'Retention deleted the snapshot “{title}”.',
  'snapshot frozen': 'Froze the snapshot “{title}”.',
  'snapshot tagged': 'Tagged snapshot {snapshot} with {tags}.',
  'translations set': 'Set the address translations: {translations}.',
  'token made': 'Made the token “{title}” for {tables} until {until}.',
  'token revoked': 'Revoked the token “{title}”.',
  'version approval deleted': 'Deleted the approval of version {version}.',
  'version approved': 'Approved version {version}.',
  'view deleted': 'Deleted the view “{title}”.',
  'view saved': 'Saved the view “{title}”.',
  waived: 'Waived “{rule}” on {devices} until {expires}; risk owner {owner}. Reason: {reason}',
  'window moved on': 'Moved the window “{title}” on: {step}.',
  'window planned': 'Planned the window “{title}” for {devices}, from {beginsAt} to {endsAt}.',
  'window snapshots chosen': 'Chose the snapshots of the window “{title}”: before {before}, after {after}.',
  'waiver withdrawn': 'Withdrew the waiver of “{rule}” on {device}.',
}

/** Entries of a list that are named; more are counted. */
const SHOWN = 5

/** An entry of the audit log as a sentence; what has no sentence of its own names every part of its detail. */
export function activityWords(action: string, detail: Readonly<Record<string, unknown>>): string {
  const sentence = SENTENCES[action]
  if (sentence !== undefined)
    return sentence.replace(/\{(\w+)\}/g, (_, name: string) =>
      said(detail[name], name === 'device' || name === 'devices'),
    )
  const parts = Object.entries(detail).map(([name, value]) => `${spaced(name)} ${said(value, false)}`)
  return `${action.charAt(0).toUpperCase()}${action.slice(1)}${parts.length > 0 ? `: ${parts.join(', ')}` : ''}.`
}

/** A value in words. @param ofDevices none at all stands for every device */
function said(value: unknown, ofDevices: boolean): string {
  if (value === null || value === undefined) return ofDevices ? 'every device' : 'nothing'
  if (Array.isArray(value)) {
    if (value.length === 0) return 'none'
    const shown = value.slice(0, SHOWN).map((one) => said(one, ofDevices))
    return value.length > SHOWN ? `${shown.join(', ')} and ${value.length - SHOWN} more` : shown.join(', ')
  }
  if (typeof value === 'object')
    return Object.entries(value)
      .filter(([, part]) => part !== 0 && part !== null)
      .map(([name, part]) => (typeof part === 'number' ? `${part} ${spaced(name)}` : said(part, false)))
      .join(', ')
  return String(value)
}

const spaced = (name: string): string => name.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase()
