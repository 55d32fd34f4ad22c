import type { Fate, Packet } from '@jurybox/core'

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
  paths: {
    fate: Fate
    reason: { code: string; words: string }
    device: string
    protection: string[]
    hops: { device: string; in: string | null; out: string | null; decisions: { stage: string; result: string; exhibits: LineRange[] }[] }[]
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
  must: string
  outcome: 'holds' | 'broken' | 'undecided'
  words: string
  missing: string[]
  of: { count: string; classes: string[]; whole: boolean } | null
  example: { at: string; port: string | null; packet: Packet; trace: TraceView } | null
  exhibits: LineRange[]
}
export interface TrafficView {
  text: string
  links: string
  expectations: ExpectationView[]
}
export interface ReachView {
  asked: { count: string; classes: string[]; whole: boolean }
  parts: { fate: Fate; reason: { code: string; words: string }; device: string; port: string | null; count: string; example: Packet | null; classes: string[]; whole: boolean }[]
}
export interface PlacesView {
  places: string[]
  points: string[]
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
