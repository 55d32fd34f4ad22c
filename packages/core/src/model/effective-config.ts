import { withoutTail, type LocatedTree, type Scope, type Statement } from '../syntax/index.ts'
import type { ModelDialect } from './dialect.ts'

interface Interface {
  readonly name: string
  readonly description: string | null
  readonly enabled: boolean
  /** As listed: `10.0.0.1 255.255.255.0` becomes `10.0.0.1/24`. */
  readonly addresses: readonly string[]
  readonly line: number
}

/** What is known of one device from its running configuration; computed when first asked for. */
export class EffectiveConfig {
  #interfaces: readonly Interface[] | null = null

  constructor(
    readonly tree: LocatedTree,
    readonly scope: Scope,
    readonly dialect: ModelDialect,
  ) {}

  static of(tree: LocatedTree, dialect: ModelDialect): EffectiveConfig {
    return new EffectiveConfig(tree, dialect.evaluate([tree]), dialect)
  }

  get interfaces(): readonly Interface[] {
    this.#interfaces ??= this.scope
      .startingWith('interface')
      .flatMap((statement) => (statement.block === 'interface' && !statement.negated ? [interfaceOf(statement)] : []))
    return this.#interfaces
  }

  get version(): string | null {
    return (
      this.scope
        .startingWith('version')
        .find((s) => !s.negated)
        ?.text.slice(8) ?? null
    )
  }
}

function interfaceOf(statement: Statement): Interface {
  const children = statement.scope?.statements ?? []
  const held = children.filter((child) => !child.negated)
  return {
    name: statement.text.slice('interface '.length),
    description: held.find((child) => child.text.startsWith('description '))?.text.slice(12) ?? null,
    enabled: !held.some((child) => child.text === 'shutdown'),
    addresses: held.flatMap((child) => {
      const match = /^ip(?:v6)? address (\S+)(?: (\d\S*))?/.exec(child.text)
      if (!match) return []
      const length = match[2] === undefined ? null : maskLength(match[2])
      return [length === null ? (match[1] ?? '') : `${match[1]}/${length}`]
    }),
    line: statement.nodes[0]?.line ?? 1,
  }
}

function maskLength(mask: string): number | null {
  const bits = mask
    .split('.')
    .map((part) => Number(part).toString(2).padStart(8, '0'))
    .join('')
  return /^1*0*$/.test(bits) && bits.length === 32 ? withoutTail(bits, /0/).length : null
}
