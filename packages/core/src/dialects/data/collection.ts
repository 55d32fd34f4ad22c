import type { CommandSet } from '../collection.ts'

/** What is asked over NETCONF (RFC 6241) of devices that have it: RFC 7317, RFC 8343, RFC 8348, RFC 8349. */
export const DATA_COMMANDS: CommandSet = {
  dialect: 'data',
  talk: 'netconf',
  quiet: [],
  refused: [],
  records: [
    { kind: 'config', command: 'get-config running', needed: true },
    { kind: 'config.saved', command: 'get-config startup' },
    { kind: 'state/interfaces', command: 'get interfaces-state urn:ietf:params:xml:ns:yang:ietf-interfaces' },
    { kind: 'state/routes', command: 'get routing urn:ietf:params:xml:ns:yang:ietf-routing' },
    { kind: 'state/hardware', command: 'get hardware urn:ietf:params:xml:ns:yang:ietf-hardware' },
  ],
  probes: {},
}
