import { EffectiveConfig, dialectById, modelOf, type Dialect } from '../../src/index.ts'
import type { Mask } from '../../src/syntax/index.ts'
import { compileRule, judgedDevice, ruleSchema, type JudgedDevice, type Rule } from '../../src/rules/index.ts'

/** A device that has a configuration and nothing beside it. */
export function deviceOf(config: string, id = 'indented', mask?: Mask): JudgedDevice {
  const dialect = dialectById(id) as Dialect
  const effective = EffectiveConfig.of(dialect.read(config), dialect)
  const model = () => modelOf(effective, { record: 'r', mask: mask ?? (() => '') })
  return judgedDevice({ name: 'd', record: 'r', effective, ...(mask ? { mask } : {}), model })
}

/** A rule of which nothing but its body matters. */
export function ruleOf(body: object): Rule {
  return compileRule(
    ruleSchema.parse({ id: 'r', title: 'R', topic: 'T', severity: 'low', profile: 'a', statement: 's', ...body }),
  )
}
