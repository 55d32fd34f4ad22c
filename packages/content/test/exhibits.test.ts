import { expect } from 'chai'
import { readBenchmark, type Verdict } from '@jurybox/core'
import { tryExamples } from '@jurybox/core/audit'
import { benchmarkTexts } from '../src/index.ts'

/** What a verdict says, without the lines that it shows. */
const saidBy = (verdict: Verdict | null): string =>
  JSON.stringify([verdict?.outcome, verdict?.branch, verdict?.missing, verdict?.extra, verdict?.subjects])

/**
 * Here silence says what the line says, or another line says the same: taking the line away changes nothing. An entry
 * of a table is still there when what is set in it is taken away.
 */
const SAME_IN_SILENCE = [
  'aaa-authorised: trap: for commands only',
  'aaa-commands-recorded: trap: recorded nowhere',
  'aaa-login: AAA off',
  'bootp-server-off: handed on',
  'finger-off: off',
  'ftp-off: off',
  'idle-timeout: a class without it',
  'log-timestamps: the year only',
  'log-two-hosts: trap: one host, two ways of writing it',
  'logins-logged: trap: emergencies only',
  'password-encryption: switched off',
  'services-off-stay-silent: trap: switched on, and answers',
  'snmp-communities-restricted: edit blocks: open',
  'snmp-no-default-community: XML listing: own',
  'snmp-no-default-community: another name',
  'snmp-no-default-community: edit blocks: own',
  'snmp-no-default-community: own',
  'snmp-no-default-community: trap: part of a name',
  'snmp-v3-only: edit blocks: communities',
  'source-route-off: trap: on for both families',
  'unused-ports-down: edit blocks: left up',
  'vty-ssh-only: XML listing: switched off',
  'zone-policies-narrow: edit blocks: narrow',
]

describe('the lines that a verdict shows', () => {
  it('are those that it rests on: without them it says something else', function () {
    this.timeout(60_000)
    let tried = 0
    const same: string[] = []
    for (const benchmark of benchmarkTexts().map(({ text }) => readBenchmark(text))) {
      for (const rule of benchmark.rules) {
        for (const { example, verdict } of tryExamples(benchmark, rule)) {
          const shown = new Set(
            (verdict?.exhibits ?? [])
              .filter(({ absent, record }) => !absent && record === 'config.txt')
              .flatMap(({ from, to }) => Array.from({ length: to - from + 1 }, (_, i) => from + i)),
          )
          if (shown.size === 0) continue
          tried++
          const config = example.config
            .split('\n')
            .filter((_, i) => !shown.has(i + 1))
            .join('\n')
          const [without] = tryExamples(benchmark, {
            ...rule,
            source: { ...rule.source, examples: [{ ...example, config }] },
          })
          if (saidBy(without?.verdict ?? null) === saidBy(verdict)) same.push(`${rule.source.id}: ${example.name}`)
        }
      }
    }
    expect(tried).to.be.above(500)
    expect(same.sort()).to.deep.equal(SAME_IN_SILENCE)
  })
})
