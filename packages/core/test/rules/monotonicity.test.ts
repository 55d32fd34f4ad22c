import { expect } from 'chai'
import { compileExpression } from '../../src/rules/expression.ts'
import { changeOf, type Change } from '../../src/rules/monotonicity.ts'

/** A model of which lines state the host name; its lists hold entries whose mode is a default. */
const STATED: Readonly<Record<string, boolean>> = {
  'system.hostname': true,
  'system.domain': false,
  'system.users': false,
  interfaces: false,
}
const change = (source: string): Change =>
  changeOf(compileExpression(source).ast, {
    isStated: (path) => STATED[path] ?? (/^(?:system|interfaces)\b/.test(path) ? false : null),
    isList: (path) => path === 'interfaces' || path === 'system.users' || path.endsWith('.addresses'),
    isReplaceable: (path) => path === 'interfaces.mode',
  })

describe('what lines that are missing may change of an answer', () => {
  const cases: readonly (readonly [string, Change])[] = [
    ['system.hostname == "a"', 'none'],
    ['system.domain == "a"', 'any'],
    ['system.domain == null', 'fewer'],
    ['system.domain != null', 'more'],
    ['limit > 5', 'none'],
    // Entries come, and none goes.
    ['interfaces.size() > 2', 'more'],
    ['interfaces.size() >= 2', 'more'],
    ['interfaces.size() < 2', 'fewer'],
    ['interfaces.size() == 0', 'fewer'],
    ['interfaces.size() == 2', 'any'],
    ['interfaces.exists(i, i.name == "a")', 'more'],
    ['!interfaces.exists(i, i.name == "a")', 'fewer'],
    ['interfaces.all(i, i.name != "a")', 'fewer'],
    ['interfaces.all(i, i.name == "a")', 'any'],
    ['interfaces.exists(i, i.name != "a")', 'any'],
    ['interfaces.exists(i, i.secret == null)', 'any'],
    ['interfaces.all(i, i.secret != null)', 'any'],
    // A default is replaced by what lines state.
    ['interfaces.exists(i, i.mode == "a")', 'any'],
    ['interfaces.exists(i, i.mode)', 'any'],
    ['interfaces.exists(i, i.shut)', 'more'],
    // Two fields of which neither is stated are equal until one is.
    ['interfaces.exists(i, i.vrf == i.zone)', 'any'],
    // Of a list that was filtered, entries may go where more is known of them.
    ['interfaces.filter(i, i.shut).size() > 0', 'more'],
    ['interfaces.filter(i, !i.shut).size() > 0', 'any'],
    ['interfaces.filter(i, i.shut).exists(i, i.name == "a")', 'more'],
    ['interfaces.filter(i, i.secret == null).exists(i, i.name == "a")', 'any'],
    ['interfaces.filter(i, i.shut).all(i, i.mode == "a")', 'any'],
    ['interfaces.map(i, i.name).size() > 0', 'any'],
    ['interfaces.exists(i, i.addresses.exists(a, a.family == "ipv4"))', 'more'],
    ['interfaces.exists(i, i.addresses.size() == 0)', 'any'],
    // What is looked for may change as well as where.
    ['"a" in system.users', 'more'],
    ['system.hostname in system.users', 'more'],
    ['system.domain in system.users', 'any'],
    ['!("a" in system.users)', 'fewer'],
    ['interfaces.exists(i, i.name in system.users)', 'more'],
    ['interfaces.exists(i, i.mode in system.users)', 'any'],
    ['interfaces.exists(i, !(i.name in system.users))', 'any'],
    ['system.hostname in allowed', 'none'],
    ['system.domain in allowed', 'any'],
    // The length of a text is no number of entries.
    ['system.domain.size() > 3', 'any'],
    ['system.hostname.size() > 3', 'none'],
    // Two that change in one way do so together, two that do not may do either.
    ['interfaces.size() > 0 && "a" in system.users', 'more'],
    ['interfaces.size() > 0 || system.domain == null', 'any'],
    ['interfaces.size() > 0 && system.hostname == "a"', 'more'],
  ]
  for (const [source, expected] of cases)
    it(`${source}: ${expected}`, () => {
      expect(change(source)).to.equal(expected)
    })
})
