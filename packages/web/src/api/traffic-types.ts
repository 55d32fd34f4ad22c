import type { Fate, Packet } from '@jurybox/core'
import type { FunctionKind, Picture } from '@jurybox/core/forwarding'

/** What the server answers of traffic. */
export interface LineRange {
  device: string
  record: number
  from: number
  to: number
}
export interface TraceView {
  fates: Fate[]
  whole: boolean
  picture: Picture | null
  paths: {
    fate: Fate
    reason: { code: string; words: string }
    device: string
    protection: string[]
    hops: {
      device: string
      in: string | null
      out: string | null
      decisions: { stage: string; result: string; exhibits: LineRange[] }[]
      layers?: string[]
    }[]
  }[]
}
export interface ExpectationView {
  id: string
  title: string
  from: string[]
  to: string[]
  only: string | null
  packets: 'first' | 'all'
  severity: string
  references: string[]
  since: { snapshot: number; title: string; takenAt: string }
  everHeld: boolean
  confirmed: boolean
  /** Who accepted it, why, and until when. */
  waived: { reason: string; owner: string; expires: string } | null
  must: string
  outcome: 'holds' | 'broken' | 'undecided'
  words: string
  missing: string[]
  of: { count: string; classes: string[]; whole: boolean } | null
  example: { at: string; port: string | null; packet: Packet; trace: TraceView } | null
  picture: Picture | null
  exhibits: LineRange[]
}
export interface TrafficView {
  text: string
  links: string
  expectations: ExpectationView[]
}
export interface ReachView {
  picture: Picture
  asked: { count: string; classes: string[]; whole: boolean }
  parts: {
    fate: Fate
    reason: { code: string; words: string }
    device: string
    port: string | null
    count: string
    example: Packet | null
    classes: string[]
    whole: boolean
  }[]
}
export interface PlacesView {
  places: string[]
  points: string[]
  /** Ports that lead outside as they hold, and whether people declared them. */
  outside: string[]
  declared: boolean
  tables: { device: string; table: string; family: string; from: 'captured' | 'computed'; missing: string | null }[]
}
export interface FindingView {
  device: string
  kind: string
  list: string
  family: string | null
  words: string
  packets: { classes: string[]; whole: boolean } | null
  exhibits: LineRange[]
}
/** A set of headers: how many, classes, one of them. */
export interface SetView {
  count: string
  classes: string[]
  whole: boolean
  example: Packet | null
}
export interface SurveyView {
  of: number
  rows: { place: string; arrives: SetView | null; undecided: SetView | null }[]
}
export interface ExampleView {
  at: string
  port: string | null
  packet: Packet
}
export interface NetworkFindingView {
  kind: string
  title: string
  devices: string[]
  words: string
  from: string[]
  packets: { classes: string[]; whole: boolean } | null
  example: (ExampleView & { trace: TraceView }) | null
  exhibits: LineRange[]
}
export interface FunctionView {
  device: string
  kind: FunctionKind
  server: string
  outcome: 'right' | 'broken' | 'unknown'
  links: {
    link: string
    standing: 'right' | 'broken' | 'unknown'
    words: string
    exhibits: LineRange[]
    trace: (ExampleView & { trace: TraceView }) | null
  }[]
}
export interface ChangesView {
  gone: string[]
  added: string[]
  changes: {
    before: Fate[]
    after: Fate[]
    from: string[]
    to: string[]
    ends: string[]
    count: string
    classes: string[]
    whole: boolean
    decision: { device: string; before: string | null; after: string | null }
    lines: { before: LineRange[]; after: LineRange[] }
    /** Whether these lines alone turn the fate back. */
    proven: boolean
    example: (ExampleView & { before: TraceView; after: TraceView }) | null
  }[]
}
export interface ListRow {
  device: string
  list: string
  family: string
  lines: number
}
