import { expect } from 'chai'
import { ruleOfReference } from '../../src/authoring/index.ts'
import { referenceSchema } from '../../src/references/index.ts'
import { ruleSchema } from '../../src/rules/index.ts'
import { deviceOf, ruleOf } from '../rules/judging.ts'

const REFERENCE = referenceSchema.parse({
  id: 'ntp',
  title: 'Clock of the cores',
  feature: 'ntp',
  dialect: 'indented',
  scope: 'device.labels.role == "core"',
  values: { server: { is: '10.40.0.11' } },
  parts: [{ covers: ['ntp ...'], lines: ['ntp server <server>', 'ntp authenticate'] }],
})

describe('a reference as a rule', () => {
  const draft = ruleOfReference(REFERENCE)
  const outcome = (config: string): string | undefined => {
    const { scope: _, ...rule } = draft.rule
    return ruleOf(rule).judge(deviceOf(config), {}).outcome
  }

  it('is a rule of the schema, with its scope and dialect', () => {
    const rule = ruleSchema.parse(draft.rule)
    expect([rule.id, rule.title, rule.scope]).to.deep.equal(['clock-of-the-cores', REFERENCE.title, REFERENCE.scope])
  })

  it('passes where the lines are, and fails where one is missing or extra', () => {
    expect(outcome('ntp server 10.40.0.11\nntp authenticate\n')).to.equal('pass')
    expect(outcome('ntp server 10.40.0.11\n')).to.equal('fail')
    expect(outcome('ntp server 10.40.0.11\nntp authenticate\nntp server 192.0.2.9\n')).to.equal('fail')
  })
})
