import type { DeviceModel } from './schema/index.ts'
import type { Writer } from './writer.ts'

/**
 * Which servers the lists of methods for logins ask, by their protocol or by a group of theirs; not known where no list
 * is stated.
 */
export function settleServers(w: Writer<DeviceModel['system']>): void {
  const { methods, groups } = w.target.aaa
  const lists = methods.map((list, i) => ({ ...list, i })).filter(({ purpose }) => purpose === 'authentication login')
  if (lists.length === 0) return
  const aaa = w.at('aaa')
  for (const server of aaa.every('servers', {})) {
    const { protocol, name, address } = server.target
    const names = [
      protocol,
      `${protocol}+`,
      ...groups
        .filter(({ servers }) => servers.includes(name) || (address !== null && servers.includes(address)))
        .map((group) => group.name),
    ]
    const by = lists.find((list) => list.methods.some((word) => names.includes(word)))
    server.presume('asked', by !== undefined)
    w.provenance.origins.note(server.place, 'asked', {
      kind: 'of',
      path: `${aaa.path}.methods[${by?.i ?? lists[0]?.i ?? 0}]`,
    })
  }
}
