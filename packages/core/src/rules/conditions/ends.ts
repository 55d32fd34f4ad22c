import { z } from 'zod'
import type { CompiledCondition } from '../compiled-condition.ts'
import { unreadAbout } from '../doubt.ts'
import { LINKS_KEY, type FarEnd } from '../estate.ts'
import { LINKS, LINKS_WHERE, MOST_ON_OTHER, notAsked, placesOnOther } from '../estate-question.ts'
import type { EvaluationContext } from '../evaluation-context.ts'
import { Finding, type CitedRange } from '../evidence.ts'
import type { LinkEnd } from '../link-end.ts'
import { linkEndsOf } from '../link-ends.ts'
import { placesOf } from '../model-fields.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

const MATTERS = ['known', 'mtu', 'speed', 'vlans', 'ospf', 'protection'] as const
type Ends = (typeof MATTERS)[number]

/** Both ends of every link agree; binds `disagreeing`. `known`: the other end of some link is known. */
export const ends = conditionKind({
  key: 'ends',
  schema: () => z.strictObject({ ends: z.enum(MATTERS) }),
  needs: () => ({ ...NEEDS_NOTHING, outputs: true, questions: [LINKS, LINKS_WHERE] }),
  compile: (condition) => compileEnds(condition.ends),
  words: (condition) =>
    condition.ends === 'known'
      ? 'the other end of a link is known'
      : `both ends of every link agree about ${AGREEMENTS[condition.ends]}`,
  form: {
    title: 'both ends of links agree',
    fields: [{ path: ['ends'], title: 'about', as: 'choice', choices: MATTERS }],
    start: { ends: 'mtu' },
  },
  docs: {
    form: '`{ ends: known | mtu | speed | vlans | ospf | protection }`',
    holds: 'both ends of every link agree; binds `disagreeing`',
  },
})

const AGREEMENTS: Readonly<Record<Exclude<Ends, 'known'>, string>> = {
  mtu: 'the MTU',
  speed: 'speed and duplex',
  vlans: 'the VLANs',
  ospf: 'area, timers and authentication of OSPF',
  protection: 'its protection',
}

type Agreement = Exclude<Ends, 'known'>

/** What both ends of a link have to agree about, as a text; null where an end does not state it. */
const STATED: Readonly<Record<Agreement, (end: LinkEnd) => string | null>> = {
  mtu: ({ mtu }) => (mtu === null ? null : String(mtu)),
  speed: ({ speed, duplex }) => (speed === null && duplex === null ? null : [speed, duplex].filter(Boolean).join(' ')),
  vlans: ({ mode, accessVlan, nativeVlan, allowedVlans }) =>
    mode === null
      ? null
      : mode.startsWith('trunk')
        ? `trunk, native ${nativeVlan ?? 1}, ${allowedVlans}`
        : `access ${accessVlan ?? 1}`,
  ospf: ({ area, helloSeconds, deadSeconds, authentication }) =>
    area === null
      ? null
      : `area ${areaText(area)}, hello ${helloSeconds}, dead ${deadSeconds}, ${authentication ?? 'no authentication'}`,
  protection: ({ protection }) => protection ?? 'none',
}

function listUnread({ mode, allowedVlans }: LinkEnd): boolean {
  return mode?.startsWith('trunk') === true && allowedVlans === null
}

/** The parts of an interface that say it. */
const PARTS_OF: Readonly<Record<Agreement, readonly string[]>> = {
  mtu: ['.mtu'],
  speed: ['.speed', '.duplex'],
  vlans: ['.switching'],
  ospf: ['.ospf'],
  protection: ['.encryption', '.tunnel'],
}

/** `0` and `0.0.0.0` are one area (RFC 2328 §C.2 writes areas as addresses). */
function areaText(area: string): string {
  return /^\d+$/.test(area)
    ? [24, 16, 8, 0].map((shift) => Math.floor(Number(area) / 2 ** shift) % 256).join('.')
    : area
}

/** Each link of the device with the ends that others have of it; null where nobody was asked. */
function linksOf({ device }: EvaluationContext): { readonly own: LinkEnd; readonly far: readonly FarEnd[] }[] | null {
  const { estate } = device
  if (!estate?.estate.answers.has(LINKS_KEY)) return null
  return linkEndsOf(device).map((own) => ({ own, far: estate.ends(device.name, own) ?? [] }))
}

function askKnownEnds(context: EvaluationContext): Finding {
  const links = linksOf(context)
  return links
    ? new Finding(
        links.some(({ far }) => far.length > 0),
        () => context.whole(),
      )
    : notAsked(context)
}

/** Both ends of every link that is known agree; binds `disagreeing`. Where no other end is known, nothing is. */
function compileEnds(about: Ends): CompiledCondition {
  if (about === 'known') return askKnownEnds
  const stated = STATED[about]
  return (context) => {
    const links = linksOf(context)
    if (!links) return notAsked(context)
    const pairs = links.flatMap(({ own, far }) => far.map(({ device, end }) => ({ own, device, other: end })))
    if (pairs.length === 0)
      return new Finding('unknown', () => context.whole(), { why: 'the other end of none of its links is known' })
    const isUnread = ({ own, other }: (typeof pairs)[number]): boolean =>
      about === 'vlans' && (listUnread(own) || listUnread(other))
    const unread = pairs.filter(isUnread)
    const apart = pairs.filter((pair) => {
      const { own, other } = pair
      if (isUnread(pair)) return false
      const [mine, theirs] = [stated(own), stated(other)]
      return mine !== theirs && (about === 'vlans' || about === 'protection' || (mine !== null && theirs !== null))
    })
    if (apart.length === 0 && unread.length > 0)
      return new Finding(
        'unknown',
        () => unread.flatMap(({ own }) => placesOf(context.device, `${own.path}.switching`)),
        { why: `the VLANs that ${unread[0]?.own.interface} or its other end allows are not understood` },
      )
    const disagreeing = apart.map(
      ({ own, device, other }) =>
        `${own.interface}: ${stated(own) ?? 'not stated'}; ${device} ${other.interface}: ` +
        `${stated(other) ?? 'not stated'}`,
    )
    context.bind({ disagreeing })
    const there = apart
      .slice(0, MOST_ON_OTHER)
      .flatMap(({ device, other }) => placesOnOther(context, LINKS_KEY, device, other.interface))
    const here = (): CitedRange[] =>
      (apart.length > 0 ? apart : pairs).flatMap(({ own }) => [
        ...placesOf(context.device, own.path),
        ...PARTS_OF[about].flatMap((part) => placesOf(context.device, `${own.path}${part}`, true)),
      ])
    return new Finding(
      apart.length === 0,
      () => [...here(), ...there],
      apart.length > 0 ? { extra: disagreeing } : undefined,
      unreadAbout(context.device, ['interfaces']),
    )
  }
}
