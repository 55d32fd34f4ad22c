/**
 * Every text of a report, in English. Names in braces are filled in; of two forms parted by `|` the first is for one.
 * Titles and results of rules, requirements and expectations are no texts of a report: they come from their benchmark.
 */
export const en = {
  'report.kicker': 'Evidence report',
  'report.contents': 'Contents',
  'report.made': 'Made',
  'report.snapshot': 'Snapshot',
  'report.madeOf': 'Made {made} · snapshot “{snapshot}”',
  'report.madeOfTaken': 'Made {made} · snapshot “{snapshot}” of {taken}',
  'report.limitedTo': 'Limited to {what}.',
  'report.pages': '{page} of {pages}',

  'cover.client': 'Client',
  'cover.auditor': 'Auditor',
  'cover.period': 'Period',
  'cover.engagement': 'Engagement',
  'cover.confidentiality': 'Confidentiality',
  'cover.periodFromTo': '{from} to {to}',
  'cover.line': '{name}: {value}',
  'cover.limitedTo': 'Limited to',

  'section.summary': 'Summary',
  'section.scope': 'Scope',
  'section.method': 'Method',
  'section.signing': 'Signature of evidence',
  'section.assessment': 'Assessment',
  'section.rules': 'Rules',
  'section.standing': 'Score and coverage',
  'section.requirements': 'Requirements',
  'section.people': 'Questions for people',
  'section.traffic': 'Expectations',
  'section.remediation': 'Remediation',
  'section.findings': 'Findings',
  'section.records': 'Records',

  'outcome.fail': 'fail',
  'outcome.unknown': 'unknown',
  'outcome.error': 'error',
  'outcome.pass': 'pass',
  'outcome.notapplicable': 'not applicable',
  'outcome.notchecked': 'not checked',
  'outcome.notselected': 'not selected',
  'outcome.waived': 'waived',
  'severity.high': 'high',
  'severity.medium': 'medium',
  'severity.low': 'low',
  'severity.info': 'info',

  'answer.met': 'met',
  'answer.not-met': 'not met',
  'answer.partly': 'partly',
  'answer.undecided': 'undecided',
  'answer.not-applicable': 'not applicable',
  'answer.not-assessed': 'not assessed',
  'answer.outside': 'outside',
  'why.failed': '{n} failed',
  'why.waived': '{n} of the findings waived',
  'why.undecided': '{n} could not be decided',
  'why.unanswered': '{n} question is not answered | {n} questions are not answered',
  'why.person': 'a person must judge the rest',
  'why.none': 'nothing here assesses it',

  'summary.audited':
    '{n} device was audited by {rules} rules; {found} | {n} devices were audited by {rules} rules; {found}',
  'summary.withFindings': '{n} has findings. | {n} have findings.',
  'summary.failures':
    '{fail} failures, {high} of them with high severity; {open} could not be decided. ' +
    'Violated expectations of traffic are among them, waived findings are not.',
  'summary.since': 'Since “{title}” of {day}: {resolved} findings resolved, {added} new, {stillOpen} still open.',
  'summary.severities': 'Findings by severity',
  'summary.topics': 'Topics with most findings',
  'summary.devices': 'Devices with most findings',
  'summary.bars': 'fail, and beside it what could not be decided',
  'summary.first': 'Remediate first',
  'summary.failing': 'Devices that fail',
  'summary.notDecided': 'not decided',
  'summary.failAndOpen': '{fail} fail, {open} not decided',

  'scope.audited': '{n} device audited with {benchmarks}. | {n} devices audited with {benchmarks}.',
  'scope.benchmark': '{title} {version} (profile {profile})',
  'scope.refused': 'Refused files',

  'limit.device': 'device {name}',
  'limit.site': 'site {name}',
  'limit.topic': 'topic {name}',

  'method.certification':
    'Passing is not certification: this report says what rules and people have found in what was ' +
    'captured, and which requirements nobody has looked at.',
  'method.captured':
    'Stored configurations stand for the running ones; no device was contacted for this report. The ' +
    'age of each record is given beside it.',
  'method.branches':
    'Each rule is decided by the first of its branches that holds; the branch is named with every ' +
    'verdict. Silence of a listing is read as the rule states it, never as a pass by itself.',
  'method.traffic':
    'Expectations of traffic are answered for every packet of a class, not for a sample, on the tables ' +
    'and filters of the snapshot; what depends on a record that is not there is unknown.',
  'method.unknown': 'What could not be decided is counted as unknown and listed with the violations.',
  'method.outcomes':
    'Outcomes are those of XCCDF 1.2. A rule about several interfaces, lines or users fails where one of them fails.',
  'method.requirements':
    'Requirement numbers and titles are paraphrased from memory; a rule speaks to a requirement ' +
    'without deciding the whole of it.',
  'method.secrets':
    'Communities, passwords and keys are replaced by ‹secret:…›; equal marks in one report stand for ' +
    'equal secrets. In commands `<community 1f3a9c07>` is a placeholder: supply the secret whose mark ' +
    'has that number.',

  'signing.key': 'Evidence packs of this engagement are signed with the key of this fingerprint (Ed25519):',
  'signing.publicKey': 'Public key: {key}',

  'standing.flat':
    'XCCDF flat model: one point for each rule on each device that passes, of as many as were decided ' +
    'or could not be.',
  'standing.weighted':
    'XCCDF default model: each rule scores the share of its devices that pass, each topic the mean of ' +
    'its rules, the benchmark the mean of its topics, from 0 to 100.',
  'standing.score': '{benchmark}: {points} of {of} points; weighted {weighted}.',
  'standing.notDecided': 'not decided',
  'standing.tailored': 'Excluded or changed rules',
  'standing.requirements': '{n} requirement | {n} requirements',

  'score.sure': 'What the network evidence says so far, by {method}: {most} of {of}.',
  'score.between': 'What the network evidence says so far, by {method}: between {least} and {most} of {of}.',
  'score.noneLost': 'No requirement is known not to be met.',
  'score.lost': 'Not met: {lost}.',
  'score.lostSure': '{requirement} (−{most})',
  'score.lostBetween': '{requirement} (−{least} to −{most})',
  'score.open':
    '{n} requirement is undecided or not assessed here; it weighs {points} points. | ' +
    '{n} requirements are undecided or not assessed here; they weigh {points} points.',
  'score.required': 'No score can be reported before these are met: {requirements}.',
  'score.planLost': 'A plan of action needs at least {least}; more is lost already.',
  'score.plan': 'A plan of action needs at least {least}, and closes what it leaves open within {days} days.',
  'score.planNever': 'No plan of action may leave open: {requirements}.',

  'people.expired': '{outcome} (the last answer has expired)',
  'people.needed': 'needed: {evidence}',

  'findings.counts': '{all}: {parts}',
  'findings.ofRules': '{n} of rules',
  'findings.ofExpectations': '{n} of expectations of traffic',
  'findings.waived': '{n} of them waived',
  'findings.definition': '{counts}. A finding is a verdict that is fail, unknown or error.',
  'findings.none': 'There are no findings.',

  'finding.severity': 'severity {severity}',
  'finding.branch': '{rule}, branch {branch}',
  'finding.evidence': 'evidence of {time}',
  'finding.evidenceUnknown': 'evidence of unknown age',
  'finding.waived': 'Waived',
  'finding.waivedFor': 'Waived for {subject}',
  'finding.waivedUntil': '{waived} until {time}, risk owner {owner}: {reason}',
  'finding.values': 'Values: {values}',
  'finding.value': '{name} = {value} ({from})',
  'finding.missing': 'Missing:',
  'finding.extra': 'Extra:',
  'finding.morePlaces': 'and {n} more place. | and {n} more places.',
  'finding.references': 'References: {references}',
  'finding.line': '{record}, line {from}',
  'finding.lines': '{record}, lines {from} to {to}',
  'finding.searched': 'Searched {where}',
  'finding.searchedMissing': 'Searched {where}: missing.',
  'finding.searchedCell': 'searched, missing',

  'remedy.remediation': 'Remediation',
  'remedy.rollback': 'Rollback',
  'remedy.check': 'First check:',
  'remedy.unrestored': 'Not restored by the rollback: {what}',
  'risk.session': 'May cut off the session that applies the change.',
  'risk.traffic': 'May interrupt traffic.',

  'records.build': 'Build {build}.',
  'records.fingerprint':
    'The fingerprint of a record is an HMAC-SHA256 of the file as it was imported, under the key of the engagement: ' +
    'the same file has the same one.',

  'time.unknown': 'not known',
  'time.utc': '{time} UTC',

  'column.answer': 'Answer',
  'column.automatic': 'Automatic',
  'column.benchmark': 'Benchmark',
  'column.by': 'By',
  'column.byPerson': 'By a person',
  'column.device': 'Device',
  'column.dialect': 'Dialect',
  'column.evidence': 'Evidence',
  'column.evidenceOf': 'Evidence of',
  'column.evidenced': 'Rules, questions, expectations',
  'column.expectation': 'Expectation',
  'column.file': 'File',
  'column.finding': 'Finding',
  'column.fingerprint': 'Fingerprint',
  'column.framework': 'Framework',
  'column.fromLine': 'From line',
  'column.lines': 'Lines',
  'column.notCovered': 'Not covered',
  'column.number': 'Number',
  'column.outcome': 'Outcome',
  'column.outside': 'Outside the network',
  'column.partly': 'Partly',
  'column.question': 'Question',
  'column.reason': 'Reason',
  'column.record': 'Record',
  'column.remediation': 'Remediation',
  'column.requirement': 'Requirement',
  'column.requirements': 'Requirements',
  'column.result': 'Result',
  'column.rollback': 'Rollback',
  'column.rule': 'Rule',
  'column.rules': 'Rules',
  'column.severity': 'Severity',
  'column.taken': 'Taken',
  'column.title': 'Title',
  'column.toLine': 'To line',
  'column.topic': 'Topic',
  'column.undecided': 'undecided',
  'column.unparsed': 'Unparsed',
  'column.until': 'Until',
  'column.value': 'Value',
  'column.waivedUntil': 'Waived until',
  'column.what': 'What',
  'column.why': 'Why',

  'sheet.summary': 'Summary',
  'sheet.findings': 'Findings',
  'sheet.evidence': 'Evidence',
  'sheet.requirements': 'Requirements',
  'sheet.devices': 'Devices',
  'sheet.report': 'Report',
  'sheet.verdicts': 'Verdicts: {outcome}',
  'sheet.findingsOf': 'Findings, {severity}',
  'sheet.cut': ' … (cut; whole in the JSON report)',
} as const
