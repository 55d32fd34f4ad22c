/** What differs by itself: rules that ship with dialects, and those that people add for an engagement. */
import { RE2JS } from 're2js'
import { z } from 'zod'
import { noiseRuleSchema, readBeside, type NoiseRule, type StatementNoise, type Syntax } from '../syntax/index.ts'

/** `noise.yaml`: what people leave out of comparisons. */
export const noiseFileSchema = z.strictObject({ noise: z.array(noiseRuleSchema).max(200) })

/** Reads `noise.yaml`. @throws CompanionFileError */
export function readNoise(file: { readonly path: string; readonly text: string }): readonly NoiseRule[] {
  const { noise } = readBeside(file, noiseFileSchema)
  return noise
}

/**
 * Fields of the state that differ from one capture to the next although nothing happened: counters and ages. What they
 * tell, tolerances and rates tell (common practice).
 */
export const STATE_NOISE: readonly NoiseRule[] = [
  { id: 'interface-counters', title: 'Counters of interfaces', state: 'interfaces.counters' },
  { id: 'neighbour-cache', title: 'Age of resolved addresses', state: 'addresses.state' },
  { id: 'clock-time', title: 'Time of day', state: 'clock.time' },
  { id: 'ntp-offset', title: 'Offset to time servers', state: 'associations.offset' },
  { id: 'ntp-reach', title: 'Last answers of time servers', state: 'associations.reach' },
  { id: 'uptime', title: 'Time since the last start', state: 'software.uptime' },
  { id: 'sa-index', title: 'Index of a security association', state: 'securityAssociations.spi' },
  { id: 'sa-bytes', title: 'Octets protected so far', state: 'securityAssociations.bytes' },
  { id: 'sa-lifetime', title: 'Time until rekeying', state: 'securityAssociations.lifetimeSeconds' },
  { id: 'channel-packets', title: 'Packets of a secure channel', state: 'secureChannels.packets' },
  { id: 'sensor-reading', title: 'Readings of sensors', state: 'parts.reading' },
  { id: 'load', title: 'Load of processors and memory', state: 'resources.percent' },
  { id: 'alarm-since', title: 'Time of an alarm', state: 'alarms.since' },
]

interface Matcher {
  readonly rule: StatementNoise
  readonly matches: (text: string, openers: readonly string[]) => boolean
  readonly without: (text: string) => string
}

/** Noise rules of one dialect, ready to be asked. */
export class Noise {
  readonly #matchers: readonly Matcher[]
  readonly #fields: ReadonlySet<string>

  /** @param added rules beside those of the dialect and of the state */
  constructor({ id, noise = [] }: Pick<Syntax, 'id' | 'noise'>, added: readonly NoiseRule[] = []) {
    const all = [...STATE_NOISE, ...noise, ...added]
    this.#matchers = all.flatMap((rule) =>
      'statement' in rule && (rule.dialects?.includes(id) ?? true) ? [matcherOf(rule)] : [],
    )
    this.#fields = new Set(all.flatMap((rule) => ('state' in rule ? [rule.state] : [])))
  }

  /** Whether a field of a table of the state tells nothing. */
  ignoresField(table: string, field: string): boolean {
    return this.#fields.has(`${table}.${field}`)
  }

  /**
   * What is left of a statement: null where nothing is.
   * @param openers texts of the blocks around it, outermost first
   */
  cleaned(text: string, openers: readonly string[]): string | null {
    let left = text
    for (const { rule, matches, without } of this.#matchers) {
      if (!matches(left, openers)) continue
      if (rule.ignore === 'statement') return null
      left = without(left)
    }
    return left
  }
}

/** Patterns of people run on an engine whose time is linear in the text. */
function matcherOf(rule: StatementNoise): Matcher {
  const statement = RE2JS.compile(rule.statement)
  const block = rule.block === undefined ? null : RE2JS.compile(rule.block)
  return {
    rule,
    matches: (text, openers) =>
      statement.matcher(text).find() && (block === null || openers.some((opener) => block.matcher(opener).find())),
    without: (text) => statement.matcher(text).replaceAll('…'),
  }
}
