import { originOf } from '../model/index.ts'
import { Finding, searched, type Place } from './evidence.ts'
import { compileExpression } from './expression.ts'
import type { Inquiry, JudgedDevice } from './inquiry.ts'

/** Parts of the model by which an expression can begin. */
const ROOTS = ['dialect', 'listing', 'system', 'interfaces', 'vlans', 'vrfs', 'staticRoutes', 'ospf', 'bgp', 'routePolicies', 'prefixLists', 'communityLists', 'accessLists', 'zones', 'zonePolicies', 'nat', 'trustPoints', 'ikeProposals', 'espProposals', 'ipsecPeers', 'macsec', 'trafficClasses', 'trafficPolicies'] as const

/** Names and fields that an expression reads: `system.ntp.servers`, the names of methods left out. */
function fieldsIn(expression: string): string[] {
  const bare = expression.replace(/"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'/g, '""')
  const fields = [...bare.matchAll(/(?<![\w.])([a-zA-Z_]\w*(?:\.[a-zA-Z_]\w*)*)(\s*\()?/g)].map(([, path = '', call]) => (call === undefined ? path : path.split('.').slice(0, -1).join('.')))
  return [...new Set(fields.filter(Boolean))]
}

/** A CEL expression over the device model. It rests on the lines of the fields it names. @throws Error as `compileExpression` */
export function compileModelExpression(source: string): (inquiry: Inquiry) => unknown {
  const expression = compileExpression(source)
  return (inquiry) => expression.evaluate(inquiry.names)
}

export function askModel(source: string): (inquiry: Inquiry) => Finding {
  const evaluate = compileModelExpression(source)
  const fields = fieldsIn(source)
  return (inquiry) => {
    const { device, paths } = inquiry
    const { faults, origins } = device.modelled()
    const read = fields.flatMap((field) => pathOf(field, paths))
    // Where lines may be missing, what no line states is not known to be absent.
    const fault = faults[0]
    if (fault && read.some((path) => originOf(origins, path)?.kind !== 'line')) return new Finding('unknown', () => whole(device), { why: `the record is not whole (line ${fault.line}: ${fault.reason})` })
    return new Finding(evaluate(inquiry) === true, () => {
      // A whole part of the model would be most of the listing: its entries are named by other fields, or all was searched.
      const places = read.filter((path) => path.includes('.') || path.includes('[')).flatMap((path) => placesOf(device, path))
      return places.length > 0 ? places : whole(device)
    })
  }
}

/** The path of a field in the model; none where the name is no part of it. */
function pathOf(field: string, paths: Readonly<Record<string, string>>): string[] {
  const [root = '', ...rest] = field.split('.')
  const bound = paths[root]
  if (bound !== undefined) return [[bound, ...rest].join('.')]
  return (ROOTS as readonly string[]).includes(root) ? [field] : []
}

/** The lines that a part of the model is from: its own, those of its entries, else those of what it stands in. */
export function placesOf(device: JudgedDevice, path: string): Place[] {
  const { origins } = device.modelled()
  const own = [...origins].filter(([at, origin]) => origin.kind === 'line' && (at === path || (at.startsWith(`${path}[`) && !at.slice(path.length).includes('.'))))
  const found = own.length > 0 ? own.map(([, origin]) => origin) : [originOf(origins, path)]
  return found.flatMap((origin) => (origin?.kind === 'line' ? origin.lines.map(({ from, to, columns }): Place => (columns ? { record: origin.record, from, to, absent: false, columns } : { record: origin.record, from, to, absent: false })) : []))
}

function whole(device: JudgedDevice): Place[] {
  return searched(device.record, device.held.tree, [])
}

/** The device model by its parts, as expressions and notes know them. */
export function modelNames(device: JudgedDevice): Record<string, unknown> {
  const { model } = device.modelled()
  return Object.fromEntries(ROOTS.map((root) => [root, model[root]]))
}
