import { asOf } from './as-of.ts'
import { z } from 'zod'
import { traceQuestionSchema } from '@jurybox/core/forwarding'
import { endpoint } from './endpoint.ts'

const place = z.string().trim().min(1).max(200)

/** A list as an address names it: device, name and family with bars between. */
export const listName = z
  .string()
  .regex(/^[^|]+\|.+\|ipv[46]$/, 'written as DEVICE|LIST|ipv4 or DEVICE|LIST|ipv6')
  .transform((text) => {
    const [device = '', ...rest] = text.split('|')
    return { device, list: rest.slice(0, -1).join('|'), family: rest.at(-1) ?? '' }
  })

export const placesView = z.strictObject({
  places: z.array(z.string()),
  points: z.array(z.string()),
  /** Ports that lead outside as they hold, and whether people declared them. */
  outside: z.array(z.string()),
  declared: z.boolean(),
  tables: z.array(
    z.strictObject({
      device: z.string(),
      table: z.string(),
      family: z.string(),
      from: z.enum(['captured', 'computed']),
      missing: z.string().nullable(),
    }),
  ),
})
export type PlacesView = z.infer<typeof placesView>

export const names = z.strictObject({
  hosts: z.record(z.string(), z.string()),
  ports: z.record(z.string(), z.string()),
})
export type Names = z.infer<typeof names>

/** The fates of packets (see the glossary). */
export const fate = z.enum(['arrives', 'leaves', 'stopped', 'loops', 'undecided'])
export type Fate = z.infer<typeof fate>

/** Where packets go, as a picture shows it. */
export const picture = z.strictObject({
  /** Devices by which they come in, or that send them. */
  begins: z.array(z.string()),
  links: z.array(
    z.strictObject({
      from: z.strictObject({ device: z.string(), port: z.string().nullable() }),
      to: z.strictObject({ device: z.string(), port: z.string().nullable() }),
      /** Fates of packets with headers that come by; of equal paths, one may go another way. */
      fates: z.array(fate),
      /** What protects them there, in words, innermost first; none: they are in the clear. */
      layers: z.array(z.string()),
    }),
  ),
  /** Devices with the fates that packets meet there. */
  ends: z.array(z.strictObject({ device: z.string(), fates: z.array(fate) })),
})
export type Picture = z.infer<typeof picture>

/** One header, written out. What it does not have is null. */
export const packet = z.strictObject({
  family: z.enum(['ipv4', 'ipv6']),
  source: z.string(),
  destination: z.string(),
  protocol: z.number(),
  sourcePort: z.number().nullable(),
  destinationPort: z.number().nullable(),
  icmpType: z.number().nullable(),
  icmpCode: z.number().nullable(),
  tcpFlags: z.array(z.string()).nullable(),
  fragment: z.boolean(),
  dscp: z.number(),
})
export type Packet = z.infer<typeof packet>

export const reachView = z.strictObject({
  picture: picture,
  asked: z.strictObject({ count: z.string(), classes: z.array(z.string()), whole: z.boolean() }),
  parts: z.array(
    z.strictObject({
      fate: fate,
      reason: z.strictObject({ code: z.string(), words: z.string() }),
      device: z.string(),
      port: z.string().nullable(),
      count: z.string(),
      example: packet.nullable(),
      classes: z.array(z.string()),
      whole: z.boolean(),
    }),
  ),
})
export type ReachView = z.infer<typeof reachView>

/** A set of headers: how many, classes, one of them. */
export const setView = z.strictObject({
  count: z.string(),
  classes: z.array(z.string()),
  whole: z.boolean(),
  example: packet.nullable(),
})
export type SetView = z.infer<typeof setView>

export const surveyView = z.strictObject({
  of: z.number(),
  rows: z.array(z.strictObject({ place: z.string(), arrives: setView.nullable(), undecided: setView.nullable() })),
})
export type SurveyView = z.infer<typeof surveyView>

/** What the server answers of traffic. */
export const lineRange = z.strictObject({ device: z.string(), record: z.number(), from: z.number(), to: z.number() })
export type LineRange = z.infer<typeof lineRange>

export const traceView = z.strictObject({
  fates: z.array(fate),
  whole: z.boolean(),
  picture: picture.nullable(),
  paths: z.array(
    z.strictObject({
      fate: fate,
      reason: z.strictObject({ code: z.string(), words: z.string() }),
      device: z.string(),
      protection: z.array(z.string()),
      hops: z.array(
        z.strictObject({
          device: z.string(),
          in: z.string().nullable(),
          out: z.string().nullable(),
          decisions: z.array(z.strictObject({ stage: z.string(), result: z.string(), exhibits: z.array(lineRange) })),
          layers: z.array(z.string()).optional(),
        }),
      ),
    }),
  ),
})
export type TraceView = z.infer<typeof traceView>

export const changesView = z.strictObject({
  gone: z.array(z.string()),
  added: z.array(z.string()),
  changes: z.array(
    z.strictObject({
      before: z.array(fate),
      after: z.array(fate),
      from: z.array(z.string()),
      to: z.array(z.string()),
      ends: z.array(z.string()),
      count: z.string(),
      classes: z.array(z.string()),
      whole: z.boolean(),
      decision: z.strictObject({ device: z.string(), before: z.string().nullable(), after: z.string().nullable() }),
      lines: z.strictObject({ before: z.array(lineRange), after: z.array(lineRange) }),
      /** Whether these lines alone turn the fate back. */
      proven: z.boolean(),
      example: z
        .strictObject({
          at: z.string(),
          port: z.string().nullable(),
          packet: packet,
          before: traceView,
          after: traceView,
        })
        .nullable(),
    }),
  ),
})
export type ChangesView = z.infer<typeof changesView>

export const listRow = z.strictObject({ device: z.string(), list: z.string(), family: z.string(), lines: z.number() })
export type ListRow = z.infer<typeof listRow>

export const expectationView = z.strictObject({
  id: z.string(),
  title: z.string(),
  from: z.array(z.string()),
  to: z.array(z.string()),
  only: z.string().nullable(),
  packets: z.enum(['first', 'all']),
  severity: z.string(),
  references: z.array(z.string()),
  since: z.strictObject({ snapshot: z.number(), title: z.string(), takenAt: z.string() }),
  everHeld: z.boolean(),
  confirmed: z.boolean(),
  /** Who accepted it, why, and until when. */
  waived: z
    .strictObject({ subject: z.string().nullable(), reason: z.string(), owner: z.string(), expires: z.string() })
    .nullable(),
  must: z.string(),
  outcome: z.enum(['met', 'violated', 'undecided']),
  words: z.string(),
  missing: z.array(z.string()),
  of: z.strictObject({ count: z.string(), classes: z.array(z.string()), whole: z.boolean() }).nullable(),
  example: z.strictObject({ at: z.string(), port: z.string().nullable(), packet: packet, trace: traceView }).nullable(),
  picture: picture.nullable(),
  exhibits: z.array(lineRange),
})
export type ExpectationView = z.infer<typeof expectationView>

export const trafficView = z.strictObject({
  text: z.string(),
  links: z.string(),
  expectations: z.array(expectationView),
})
export type TrafficView = z.infer<typeof trafficView>

export const findingView = z.strictObject({
  device: z.string(),
  kind: z.string(),
  /** The kind in words. */
  title: z.string(),
  list: z.string(),
  family: z.string().nullable(),
  words: z.string(),
  packets: z.strictObject({ classes: z.array(z.string()), whole: z.boolean() }).nullable(),
  exhibits: z.array(lineRange),
})
export type FindingView = z.infer<typeof findingView>

export const exampleView = z.strictObject({ at: z.string(), port: z.string().nullable(), packet: packet })
export type ExampleView = z.infer<typeof exampleView>

export const networkFindingView = z.strictObject({
  kind: z.string(),
  title: z.string(),
  devices: z.array(z.string()),
  words: z.string(),
  from: z.array(z.string()),
  packets: z.strictObject({ classes: z.array(z.string()), whole: z.boolean() }).nullable(),
  example: z.strictObject({ at: z.string(), port: z.string().nullable(), packet: packet, trace: traceView }).nullable(),
  exhibits: z.array(lineRange),
})
export type NetworkFindingView = z.infer<typeof networkFindingView>

export const functionView = z.strictObject({
  device: z.string(),
  kind: z.enum(['time', 'names', 'logging', 'logins', 'traps']),
  server: z.string(),
  outcome: z.enum(['pass', 'fail', 'unknown']),
  links: z.array(
    z.strictObject({
      link: z.string(),
      standing: z.enum(['pass', 'fail', 'unknown']),
      words: z.string(),
      exhibits: z.array(lineRange),
      trace: z
        .strictObject({ at: z.string(), port: z.string().nullable(), packet: packet, trace: traceView })
        .nullable(),
    }),
  ),
})
export type FunctionView = z.infer<typeof functionView>

/** Expectations of traffic, with their answers as of a snapshot. */
export const listExpectations = endpoint({
  method: 'get',
  path: '/engagements/:engagement/traffic',
  access: 'read',
  summary: 'Expectations of traffic, with their answers as of a snapshot',
  query: asOf,
  response: trafficView,
})

/** Declares the interfaces that lead outside; none: they are inferred. */
export const setOutside = endpoint({
  method: 'put',
  path: '/engagements/:engagement/traffic/outside',
  access: 'writeRules',
  summary: 'Declares the interfaces that lead outside; none: they are inferred',
  large: true,
  body: z.strictObject({ ports: z.array(z.string().max(320)).max(1000) }),
})

/** Saves the expectations, or the known links, as YAML. */
export const setTrafficFile = endpoint({
  method: 'put',
  path: '/engagements/:engagement/traffic/:kind',
  access: 'writeRules',
  summary: 'Saves the expectations, or the known links, as YAML',
  large: true,
  body: z.strictObject({ text: z.string().max(500_000) }),
})

/** Places that questions can name, and the routing tables with their source. */
export const listPlaces = endpoint({
  method: 'get',
  path: '/engagements/:engagement/traffic/places',
  access: 'read',
  summary: 'Places that questions can name, and the routing tables with their source',
  query: asOf,
  response: placesView,
})

/** Names of addresses and TCP/UDP ports. */
export const listNames = endpoint({
  method: 'get',
  path: '/engagements/:engagement/traffic/names',
  access: 'read',
  summary: 'Names of addresses and TCP/UDP ports',
  query: asOf,
  response: names,
})

/** The fate of all packets from one place to another. */
export const askReach = endpoint({
  method: 'get',
  path: '/engagements/:engagement/traffic/reach',
  access: 'read',
  summary: 'The fate of all packets from one place to another',
  query: asOf.extend({ from: place, to: place, only: z.string().trim().max(2000).optional() }),
  response: reachView,
})

/** Every subnet that reaches a place, or that is reached from it. */
export const askSurvey = endpoint({
  method: 'get',
  path: '/engagements/:engagement/traffic/survey',
  access: 'read',
  summary: 'Every subnet that reaches a place, or that is reached from it',
  query: asOf
    .extend({ from: place.optional(), to: place.optional(), only: z.string().trim().max(2000).optional() })
    .refine(({ from, to }) => (from === undefined) !== (to === undefined), 'asked with either from or to'),
  response: surveyView,
})

/** Findings between devices: routing loops, next hops, duplicate addresses, links, asymmetric routes. */
export const listNetworkFindings = endpoint({
  method: 'get',
  path: '/engagements/:engagement/traffic/findings',
  access: 'read',
  summary: 'Findings between devices: routing loops, next hops, duplicate addresses, links, asymmetric routes',
  query: asOf,
  response: z.array(networkFindingView),
})

/** Whether NTP, syslog, logins, SNMP traps and DNS work end to end, step by step. */
export const listFunctions = endpoint({
  method: 'get',
  path: '/engagements/:engagement/traffic/functions',
  access: 'read',
  summary: 'Whether NTP, syslog, logins, SNMP traps and DNS work end to end, step by step',
  query: asOf,
  response: z.array(functionView),
})

/** Flows whose fate differs between snapshots a and b, and the lines that cause it. */
export const compareTraffic = endpoint({
  method: 'get',
  path: '/engagements/:engagement/traffic/changes',
  access: 'read',
  summary: 'Flows whose fate differs between snapshots a and b, and the lines that cause it',
  query: z.object({
    a: z.coerce.number().int().positive(),
    b: z.coerce.number().int().positive(),
    only: z.string().trim().max(2000).optional(),
  }),
  response: changesView,
})

/** The access lists of every device. */
export const listAccessLists = endpoint({
  method: 'get',
  path: '/engagements/:engagement/traffic/lists',
  access: 'read',
  summary: 'The access lists of every device',
  query: asOf,
  response: z.array(listRow),
})

const headers = z.strictObject({ classes: z.array(z.string()), whole: z.boolean() })

/** Headers that only the first list permits, and those that only the second does; null: none. */
export const listDifference = z.strictObject({ onlyFirst: headers.nullable(), onlySecond: headers.nullable() })
export type ListDifference = z.infer<typeof listDifference>

/** The headers on which two access lists differ. */
export const compareAccessLists = endpoint({
  method: 'get',
  path: '/engagements/:engagement/traffic/lists/compared',
  access: 'read',
  summary: 'The headers on which two access lists differ',
  query: asOf.extend({ a: listName, b: listName }),
  response: listDifference,
})

/** Confirms an expectation that was never met: its violation alerts from then on. */
export const confirmExpectation = endpoint({
  method: 'post',
  path: '/engagements/:engagement/traffic/expectations/:expectation/confirm',
  access: 'writeRules',
  summary: 'Confirms an expectation that was never met: its violation alerts from then on',
})

/** One packet on all its paths, with every decision and its lines. */
export const askTrace = endpoint({
  method: 'get',
  path: '/engagements/:engagement/traffic/trace',
  access: 'read',
  summary: 'One packet on all its paths, with every decision and its lines',
  query: asOf.extend(traceQuestionSchema.shape),
  response: traceView,
})

/** Findings in access lists, line by line. */
export const listFilterFindings = endpoint({
  method: 'get',
  path: '/engagements/:engagement/traffic/filters',
  access: 'read',
  summary: 'Findings in access lists, line by line',
  query: asOf,
  response: z.array(findingView),
})
