import { expect } from 'chai'
import { EffectiveConfig, modelOf } from '@jurybox/core'
import { effectiveValues } from '@jurybox/core/benchmarks'
import { judgedDevice } from '@jurybox/core/rules'
import { benchmark, dialect, mask } from './hardening.ts'

const OTHER = '(?:ip|logging|clock|aaa|snmp-server) [^"]*'
/** Of one dialect there may be two ways to do it; the set commands of one and the words of another are none. */
const MIXED = new RegExp(`\\\\"${OTHER}\\\\", or \\\\"set |\\\\"set [^"]*\\\\", or \\\\"${OTHER}`)

/** What a rule proposes to a device of a dialect, in words; null where it proposes none. */
function wordsOf(rule: string, id: string, text: string): string | null {
  const found = benchmark.rules.find(({ source }) => source.id === rule)
  const effective = EffectiveConfig.of(dialect(id).read(text), dialect(id))
  const { outcome, remedy } =
    found?.judge(
      judgedDevice({
        name: 'device',
        record: 'config.txt',
        effective,
        model: () => modelOf(effective, { record: 'config.txt', mask }),
      }),
      effectiveValues(benchmark.source, {}),
    ) ?? {}
  expect(outcome, `${rule} in ${id}`).to.equal('fail')
  return remedy?.kind === 'words' ? remedy.words : null
}

describe('remediation in words', () => {
  for (const [rule, id, text, words] of [
    ['log-kept', 'indented', 'hostname a', '"logging buffered 64000 informational"'],
    ['log-kept', 'setlines', 'set system host-name a', '"set system syslog file messages any notice"'],
    ['domain-named', 'indented', 'hostname a', '"ip domain name DOMAIN"'],
    ['domain-named', 'braced', 'system {\n host-name a;\n}', '"set system domain-name DOMAIN"'],
    ['time-zone-utc', 'indented', 'clock timezone CET 1 0', '"clock timezone UTC 0 0"'],
    ['time-zone-utc', 'setlines', 'set system time-zone Europe/Oslo', '"set system time-zone UTC"'],
  ] as const) {
    it(`speaks the commands of the device: ${rule} in ${id}`, () =>
      expect(wordsOf(rule, id, text))
        .to.contain(words)
        .and.not.contain(', or "'))
  }

  it('never offers the commands of two dialects in one sentence', () => {
    const mixed = benchmark.rules.flatMap(
      ({ source }) =>
        JSON.stringify(source)
          .match(/"words":"(?:[^"\\]|\\.)*"/g)
          ?.flatMap((words) => (MIXED.test(words) ? [`${source.id}: ${words}`] : [])) ?? [],
    )
    expect(mixed).to.deep.equal([])
  })
})
