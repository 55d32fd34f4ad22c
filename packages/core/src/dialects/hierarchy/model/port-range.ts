import { PORTS } from '../../../model/names.ts'

/** A port or a range of them, by number or name; null where a name is not known. */
export function portRange(word: string): [number, number] | null {
  const [from, to = from] = word
    .split('-')
    .map((part) => (/^\d+$/.test(part) ? Number(part) : (PORTS.tcp[part] ?? PORTS.udp[part])))
  return from === undefined || to === undefined ? null : [from, to]
}
