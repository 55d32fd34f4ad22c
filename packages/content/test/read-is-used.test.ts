import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect } from 'chai'
import { EffectiveConfig, Scope, dialectById, modelOf, type Statement } from '@jurybox/core'
import type { ConfigNode } from '@jurybox/core/syntax'
import { mask } from './hardening.ts'

/** How many statements of each device are left out, one at a time, spread over its listing. */
const TRIED = Number(process.env['LEFT_OUT'] ?? 60)

const scenario = new URL('../../../scenario/2026-11-16/devices/', import.meta.url).pathname

/** The same scope without one statement. */
function without(scope: Scope, gone: Statement): Scope {
  const statements = scope.statements
    .filter((one) => one !== gone)
    .map((one) =>
      one.scope
        ? Object.assign(Object.create(Object.getPrototypeOf(one) as object) as Statement, one, {
            scope: without(one.scope, gone),
          })
        : one,
    )
  return new Scope(statements, scope.openers as ConfigNode[])
}

function all(scope: Scope): Statement[] {
  return scope.statements.flatMap((one) => [one, ...(one.scope ? all(one.scope) : [])])
}

// What is counted as read was used: without it, the model is another, or a value has other lines.
describe('a line that counts as read', () => {
  for (const name of readdirSync(scenario)) {
    const file = readdirSync(join(scenario, name)).includes('config.txt') ? 'config.txt' : 'filters.txt'
    const text = readFileSync(join(scenario, name, file), 'utf8')
    const id =
      file === 'filters.txt'
        ? 'linux'
        : /^set /m.test(text)
          ? 'setlines'
          : /^system \{/m.test(text)
            ? 'braced'
            : 'indented'
    it(`of ${name} put something into the model`, function () {
      this.timeout(120_000)
      const dialect = dialectById(id)
      if (!dialect) throw new Error(id)
      const held = EffectiveConfig.of(dialect.read(text), dialect)
      const options = { record: 'config.txt', mask }
      const whole = modelOf(held, options)
      const said = (modelled: typeof whole): string => JSON.stringify([modelled.model, [...modelled.origins]])
      const before = said(whole)
      const harmless = new Set(whole.harmless.map(({ line }) => line))
      const read = all(held.scope).filter(
        (statement) =>
          !whole.isUnread(statement) &&
          statement.scope === null &&
          !statement.nodes.some(({ line }) => harmless.has(line)),
      )
      const step = Math.max(1, Math.floor(read.length / TRIED))
      const idle = read
        .filter((_, i) => i % step === 0)
        .filter((statement) => said(whole.read(without(held.scope, statement))) === before)
      expect(idle.map(({ text: words, nodes: [node] }) => `${node?.line ?? 0}: ${words}`)).to.deep.equal([])
    })
  }
})
