import type { Range } from '../../../model/entry-match.ts'
import { PORTS } from '../../../model/names.ts'

/** The ports of `eq 80`, `range 1 9`, `gt 1023`, `lt 9`, or a port alone, and how many words that takes. */
export function portsIn(
  [first = '', second = '', third = '']: readonly string[],
  protocol: 'tcp' | 'udp',
): [Range[] | null, number] {
  const number = (word: string): number | null =>
    /^\d+$/.test(word) ? Number(word) : (PORTS[protocol][word] ?? PORTS.tcp[word] ?? PORTS.udp[word] ?? null)
  const [one, two] = [number(second), number(third)]
  if (first === 'eq') return [one === null ? null : [[one, one]], 2]
  if (first === 'range') return [one === null || two === null ? null : [[one, two]], 3]
  if (first === 'gt') return [one === null ? null : [[one + 1, 65535]], 2]
  if (first === 'lt') return [one === null ? null : [[0, one - 1]], 2]
  if (first === 'neq') return [one === null ? null : withoutPort([0, 65535], one), 2]
  const alone = number(first)
  return [alone === null ? null : [[alone, alone]], 1]
}

/** A range without one of its ports. */
export function withoutPort([from, to]: Range, port: number): Range[] {
  if (port < from || port > to) return [[from, to]]
  const left: Range[] = []
  if (port > from) left.push([from, port - 1])
  if (port < to) left.push([port + 1, to])
  return left
}
