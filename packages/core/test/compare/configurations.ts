/** Configurations for tests of comparing: generated ones, and what a comparison has to give back. */
import fc from 'fast-check'
import type { Dialect } from '../../src/index.ts'
import { statementText, type StatementChange } from '../../src/compare/index.ts'
import { Scope, Statement } from '../../src/syntax/index.ts'

const entry = fc.constantFrom(
  'permit ip host 10.0.0.1 any',
  'permit ip host 10.0.0.2 any',
  'permit tcp any any eq 443',
  'deny udp any any eq 53',
  'deny ip any any',
)
const numbers = (count: number): fc.Arbitrary<number[]> =>
  fc
    .uniqueArray(fc.integer({ min: 1, max: 400 }), { minLength: count, maxLength: count })
    .map((all) => all.sort((x, y) => x - y))
/** Texts behind numbers in rising order. */
const numbered = (text: fc.Arbitrary<string>, write: (number: number, text: string) => string): fc.Arbitrary<string> =>
  fc
    .array(text, { maxLength: 6 })
    .chain((texts) => numbers(texts.length).map((own) => texts.map((one, i) => write(own[i] ?? 0, one)).join('\n')))

const accessList = fc.constantFrom('X', 'Y').chain((name) =>
  fc.oneof(
    fc
      .uniqueArray(entry, { maxLength: 5 })
      .map((own) => [`ip access-list extended ${name}`, ...own.map((one) => ` ${one}`)].join('\n')),
    numbered(entry, (number, text) => ` ${number} ${text}`).map((own) => `ip access-list extended ${name}\n${own}`),
  ),
)
const prefixes = fc.constantFrom(
  'permit 10.0.0.0/8',
  'permit 192.0.2.0/24 le 28',
  'deny 0.0.0.0/0 le 32',
  'permit 198.51.100.0/24',
)
const prefixList = numbered(prefixes, (number, text) => `ip prefix-list P seq ${number} ${text}`)
const clauses = fc
  .subarray(['match ip address X', 'set local-preference 200', 'set metric 5', 'match tag 7'])
  .chain((own) =>
    fc.constantFrom('permit', 'deny').map((action) => `${action}|${own.map((one) => ` ${one}`).join('\n')}`),
  )
const routeMap = numbered(clauses, (number, text) => {
  const [action = '', own = ''] = text.split('|')
  return `route-map R ${action} ${number}\n${own}`
})
const numberedList = fc
  .uniqueArray(
    fc.constantFrom('permit 10.0.0.1', 'deny 10.0.0.0 0.0.0.255', 'permit any', 'permit 192.0.2.0 0.0.0.255'),
  )
  .map((own) => own.map((one) => `access-list 10 ${one}`).join('\n'))
const port = fc
  .tuple(
    fc.constantFrom('Vlan1', 'Vlan2'),
    fc.subarray([' shutdown', ' mtu 9000', ' description x', ' ip access-group X in']),
  )
  .map(([name, own]) => [`interface ${name}`, ...own].join('\n'))
const lines = fc
  .subarray([
    'hostname a',
    'ip http server',
    'no ip http server',
    'ntp server 10.0.0.1',
    'ntp server 10.0.0.2',
    'line vty 0 4\n login local',
  ])
  .chain((own) => fc.shuffledSubarray(own, { minLength: own.length }))
  .map((own) => own.join('\n'))

/** A configuration of the indented dialect with lists, maps, interfaces and lines. */
export const indentedText: fc.Arbitrary<string> = fc
  .tuple(
    lines,
    accessList,
    prefixList,
    routeMap,
    numberedList,
    fc.uniqueArray(port, { selector: (one) => one.split('\n')[0], maxLength: 2 }),
  )
  .map(([own, list, prefix, map, numberList, ports]) =>
    [own, list, prefix, map, numberList, ...ports].filter((part) => part !== '').join('\n'),
  )

const term = fc
  .tuple(
    fc.constantFrom('one', 'two', 'three', 'four'),
    fc.subarray(['from protocol tcp', 'from source-address 10.0.0.0/8', 'then accept', 'then count c'], {
      minLength: 1,
    }),
  )
  .map(([name, own]) => own.map((one) => `set firewall family inet filter F term ${name} ${one}`).join('\n'))
/** A configuration as set lines, with a filter whose terms are asked in turn. */
export const setText: fc.Arbitrary<string> = fc
  .tuple(
    fc.subarray([
      'set system host-name a',
      'set system services ssh',
      'set system authentication-order radius',
      'set system authentication-order password',
      'set interfaces ge-0/0/0 mtu 9000',
    ]),
    fc.array(term, { maxLength: 5 }),
  )
  .map(([own, terms]) => [...own, ...terms].join('\n'))

export const scopeOf = (dialect: Dialect, text: string): Scope => dialect.evaluate([dialect.read(text)])

/**
 * What holds, each statement as one line with the openers around it: loose lines sorted, series in their order, numbers
 * that only say a place left out. Two configurations that mean the same have the same.
 * @param form `listed`: series stand in their order already; `blocks`: blocks keep their numbers
 */
export function normalLines(
  scope: Scope,
  dialect: Dialect,
  form: 'numbers' | 'listed' | 'blocks' = 'numbers',
  block?: string,
  around = '',
): string[] {
  const series = new Map<string, { member: string; number: number; own: string[] }[]>()
  const loose: string[] = []
  for (const statement of scope.statements) {
    const numberedPlace = dialect.numberedPlaceIn?.(statement.text, block) ?? null
    const place = dialect.isOrdered(block) ? null : dialect.placeIn(statement.text)
    const text =
      numberedPlace && !(form === 'blocks' && statement.scope)
        ? `${statement.negated ? 'no ' : ''}${numberedPlace.without}`
        : statementText(statement)
    const path = `${around}${text}`
    const own = [
      path,
      ...(statement.scope ? normalLines(statement.scope, dialect, form, statement.block, `${path} › `) : []),
    ]
    const name = numberedPlace?.series ?? place?.series ?? (dialect.isOrdered(block) ? '' : null)
    if (name === null) {
      loose.push(own.join('\n'))
      continue
    }
    const members = series.get(name) ?? []
    series.set(name, members)
    const member = place && !numberedPlace ? place.member : String(members.length)
    const known = members.find((one) => one.member === member)
    if (known) known.own.push(own.join('\n'))
    else members.push({ member, number: numberedPlace?.number ?? members.at(-1)?.number ?? -1, own: [own.join('\n')] })
  }
  return [
    ...loose.sort(),
    ...[...series]
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .flatMap(([, members]) =>
        (form === 'listed' ? members : members.sort((a, b) => a.number - b.number)).flatMap(({ own }) => own.sort()),
      ),
  ].flatMap((text) => text.split('\n'))
}

/** A configuration after the changes were carried out on it. */
export function applied(scope: Scope, changes: readonly StatementChange[], dialect: Dialect): Scope {
  return within(scope, changes, [], dialect, undefined)
}

function within(
  scope: Scope,
  changes: readonly StatementChange[],
  around: readonly string[],
  dialect: Dialect,
  block?: string,
): Scope {
  const own = changes.filter(({ around: { a } }) => a.join('\n') === around.join('\n'))
  const gone = new Set(own.flatMap(({ a }) => (a ? [a] : [])))
  const kept = scope.statements
    .filter((statement) => !gone.has(statement))
    .map((statement) =>
      statement.scope
        ? new Statement(
            statement.command,
            statement.nodes,
            statement.block,
            within(statement.scope, changes, [...around, statement.text], dialect, statement.block),
          )
        : statement,
    )
  const loose = kept.filter(({ text }) => seriesOf(text, block, dialect) === null)
  const series = new Map<string, Statement[]>()
  for (const statement of kept) {
    const name = seriesOf(statement.text, block, dialect)
    if (name !== null) series.set(name, [...(series.get(name) ?? []), statement])
  }
  // Members of a series stand together, in the order of their numbers or of their first lines.
  for (const [name, all] of series) series.set(name, together(all, block, dialect))
  for (const { b, place } of own
    .filter((one) => one.b && one.place)
    .sort((x, y) => (x.place?.at ?? 0) - (y.place?.at ?? 0))) {
    const list = series.get(place?.series ?? '') ?? []
    series.set(place?.series ?? '', list)
    if (b) list.splice(place?.at ?? 0, 0, b)
  }
  const added = own.flatMap(({ b, place }) => (b && !place ? [b] : []))
  return new Scope([...loose, ...added, ...[...series.values()].flat()], scope.openers)
}

function seriesOf(text: string, block: string | undefined, dialect: Dialect): string | null {
  const numberedPlace = dialect.numberedPlaceIn?.(text, block) ?? null
  if (numberedPlace) return numberedPlace.series
  return dialect.isOrdered(block) ? '' : (dialect.placeIn(text)?.series ?? null)
}

function together(all: readonly Statement[], block: string | undefined, dialect: Dialect): Statement[] {
  const members = new Map<string, Statement[]>()
  const numbersOf = new Map<string, number>()
  all.forEach((statement, i) => {
    const numberedPlace = dialect.numberedPlaceIn?.(statement.text, block) ?? null
    const member =
      numberedPlace || dialect.isOrdered(block) ? String(i) : (dialect.placeIn(statement.text)?.member ?? '')
    members.set(member, [...(members.get(member) ?? []), statement])
    if (!numbersOf.has(member)) numbersOf.set(member, numberedPlace?.number ?? Math.max(-1, ...numbersOf.values()))
  })
  return [...members].sort(([a], [b]) => (numbersOf.get(a) ?? 0) - (numbersOf.get(b) ?? 0)).flatMap(([, own]) => own)
}
