/** Ids of VLANs: IEEE 802.1Q, 9.6. */
const [FIRST, LAST] = [1, 4094]

/** The list that names every VLAN. */
export const ALL_VLANS = 'all'

/**
 * The VLANs of a list: `30,40-42`, `all`, `none`, `except 30`.
 * @param idOf the id of a VLAN that the list names by its name
 * @returns null where a part of it says something else: then nothing is known of it
 */
export function vlansOf(
  text: string,
  idOf: (name: string) => number | undefined = () => undefined,
): Set<number> | null {
  const words = text.trim()
  const except = /^except (.+)$/i.exec(words)?.[1]
  if (except !== undefined) {
    const out = vlansOf(except, idOf)
    return out && new Set([...range(FIRST, LAST)].filter((id) => !out.has(id)))
  }
  const ids = new Set<number>()
  for (const part of words.split(/[\s,]+/)) {
    if (/^none$/i.test(part)) continue
    const [, from, to = from] = /^(\d{1,5})(?:-(\d{1,5}))?$/.exec(part) ?? []
    const named = idOf(part)
    if (from !== undefined) for (const id of range(Number(from), Number(to))) ids.add(id)
    else if (part.toLowerCase() === ALL_VLANS) for (const id of range(FIRST, LAST)) ids.add(id)
    else if (named !== undefined) ids.add(named)
    else return null
  }
  return ids
}

function* range(from: number, to: number): Generator<number> {
  for (let id = Math.max(from, FIRST); id <= Math.min(to, LAST); id++) yield id
}

/** VLANs in one writing: `10-12,20`; `all` and `none` where they are that. */
export function vlanRanges(ids: ReadonlySet<number>): string {
  if (ids.size === 0) return 'none'
  if (ids.size === LAST) return ALL_VLANS
  const ranges: [number, number][] = []
  for (const id of [...ids].sort((a, b) => a - b)) {
    const last = ranges.at(-1)
    if (last && last[1] === id - 1) last[1] = id
    else ranges.push([id, id])
  }
  return ranges.map(([from, to]) => (from === to ? String(from) : `${from}-${to}`)).join(',')
}
