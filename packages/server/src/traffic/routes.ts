import type { Trace } from '@jurybox/core'
import {
  traceQuestionSchema,
  withOutside,
  type ForwardingExhibit,
  type Picture,
  type ShownSet,
} from '@jurybox/core/forwarding'
import { z } from 'zod'
import { Fittings, type SnapshotRow } from '../db/entities.ts'
import { notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'

const asOf = z.object({ snapshot: z.coerce.number().int().positive().optional() })
const place = z.string().trim().min(1).max(200)

async function snapshotOf(services: Services, engagementId: number, id: number | undefined): Promise<SnapshotRow> {
  const snapshot = await services.snapshots.asOf(engagementId, id)
  if (!snapshot) throw notFound('snapshot')
  return snapshot
}

/** A list as an address names it: device, name and family with bars between. */
const listName = z
  .string()
  .regex(/^[^|]+\|.+\|ipv[46]$/, 'expected DEVICE|LIST|ipv4 or ipv6')
  .transform((text) => {
    const [device = '', ...rest] = text.split('|')
    return { device, list: rest.slice(0, -1).join('|'), family: rest.at(-1) ?? '' }
  })

function setView({ count, readable, example }: ShownSet) {
  return { count, classes: readable.classes, whole: readable.whole, example }
}

/** The resolvers that an engagement approves, as a fitted benchmark says; null where none does. */
async function resolversOf({ database }: Services, engagementId: number): Promise<string[] | null> {
  const all = (await database.getRepository(Fittings).findBy({ engagementId })).flatMap(
    ({ valueSet }) => valueSet['name_servers'] ?? [],
  )
  return all.length === 0 ? null : [...new Set(all.map(String))]
}

/** Lines by the record that people open. */
function lines(exhibits: readonly ForwardingExhibit[]) {
  return exhibits.map(({ device, record, from, to }) => ({ device, record: Number(record), from, to }))
}

function traceView({ fates, whole, paths }: Trace, picture: Picture | null = null) {
  return {
    fates,
    whole,
    picture,
    paths: paths.map((path) => ({
      ...path,
      hops: path.hops.map((hop) => ({
        ...hop,
        decisions: hop.decisions.map((decision) => ({ ...decision, exhibits: lines(decision.exhibits) })),
      })),
    })),
  }
}

export const trafficRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic',
    access: 'read',
    summary: 'What is expected of traffic, with the answers as of a snapshot and since when',
    query: asOf,
    handle: async ({ services, engagementId, query }) => {
      const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
      const [text, links] = await Promise.all([
        services.traffic.file(engagementId, 'expectations'),
        services.traffic.file(engagementId, 'links'),
      ])
      const answered = snapshot ? await services.traffic.expectations(snapshot) : []
      const verdicts = await services.audits.verdictsOf(engagementId, answered, () => '')
      return {
        text: text?.text ?? '',
        links: links?.text ?? '',
        expectations: answered.map(({ stated, answer, since, everHeld, confirmedBy }, i) => ({
          id: stated.id,
          title: stated.title,
          from: stated.from,
          to: stated.to,
          only: stated.only ?? null,
          packets: stated.packets,
          severity: stated.severity,
          references: stated.references,
          since,
          everHeld,
          confirmed: confirmedBy !== null,
          waived: verdicts[i]?.waived?.[0] ?? null,
          must: answer.must,
          outcome: answer.outcome,
          words: answer.words,
          missing: answer.missing,
          of: answer.packets && {
            count: answer.packets.count,
            classes: answer.packets.readable.classes,
            whole: answer.packets.readable.whole,
          },
          example: answer.example && {
            at: answer.example.at,
            port: answer.example.port,
            packet: answer.example.packet,
            trace: traceView(answer.example.trace),
          },
          picture: answer.picture,
          exhibits: lines(answer.exhibits),
        })),
      }
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/traffic/outside',
    access: 'write-rules',
    large: true,
    summary: 'Declares the ports that lead outside, in the stated links; none: they are told by themselves',
    body: z.strictObject({ ports: z.array(z.string().max(320)).max(1000) }),
    handle: async ({ services, caller, engagementId, body: { ports } }) => {
      const text = (await services.traffic.file(engagementId, 'links'))?.text ?? ''
      await services.traffic.state(engagementId, 'links', withOutside(text, ports), caller.user.id)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'outside ports declared',
        detail: { ports },
      })
      return {}
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/traffic/:kind',
    access: 'write-rules',
    large: true,
    summary: 'States what is expected of traffic, or known links, as YAML',
    body: z.strictObject({ text: z.string().max(500_000) }),
    handle: async ({ services, caller, engagementId, params, body }) => {
      const { kind } = params
      if (kind !== 'expectations' && kind !== 'links') throw notFound('page')
      await services.traffic.state(engagementId, kind, body.text, caller.user.id)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: `${kind} stated`,
        detail: { length: body.text.length },
      })
      return {}
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/places',
    access: 'read',
    summary: 'Places that questions can name, and which table of each device is known from where',
    query: asOf,
    handle: async ({ services, engagementId, query }) => {
      const { places, points, outside, declared, tables } = await services.traffic.ask(
        await snapshotOf(services, engagementId, query.snapshot),
        { ask: 'places' },
      )
      return { places, points, outside, declared, tables }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/names',
    access: 'read',
    summary: 'What addresses and ports are called, for whoever reads classes',
    query: asOf,
    handle: async ({ services, engagementId, query }) => {
      const { hosts, ports } = await services.traffic.ask(await snapshotOf(services, engagementId, query.snapshot), {
        ask: 'names',
      })
      return { hosts, ports }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/reach',
    access: 'read',
    summary: 'What becomes of every packet from one place to another',
    query: asOf.extend({ from: place, to: place, only: z.string().trim().max(2000).optional() }),
    handle: async ({ services, engagementId, query: { snapshot, from, to, only } }) => {
      const { asked, parts, picture } = await services.traffic.ask(await snapshotOf(services, engagementId, snapshot), {
        ask: 'reach',
        from,
        to,
        only: only || null,
      })
      return {
        picture,
        asked: { count: asked.count, classes: asked.readable.classes, whole: asked.readable.whole },
        parts: parts.map(({ readable, ...part }) => ({ ...part, classes: readable.classes, whole: readable.whole })),
      }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/survey',
    access: 'read',
    summary: 'Who can reach a place, or what can be reached from it: every subnet of hosts, and the world outside',
    query: asOf
      .extend({ from: place.optional(), to: place.optional(), only: z.string().trim().max(2000).optional() })
      .refine(({ from, to }) => (from === undefined) !== (to === undefined), 'expected one of from and to'),
    handle: async ({ services, engagementId, query: { snapshot, from, to, only } }) => {
      const { rows, of } = await services.traffic.ask(await snapshotOf(services, engagementId, snapshot), {
        ask: 'survey',
        place: to ?? from ?? '',
        way: to === undefined ? 'from' : 'to',
        only: only || null,
      })
      return {
        of,
        rows: rows.map((row) => ({
          place: row.place,
          arrives: row.arrives && setView(row.arrives),
          undecided: row.undecided && setView(row.undecided),
        })),
      }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/findings',
    access: 'read',
    summary:
      'What is odd about how devices fit together: routing loops, next hops, addresses, links, answers that come another way',
    query: asOf,
    handle: async ({ services, engagementId, query }) => {
      const { findings } = await services.traffic.ask(await snapshotOf(services, engagementId, query.snapshot), {
        ask: 'findings',
      })
      return findings.map(({ example, ...finding }) => ({
        ...finding,
        exhibits: lines(finding.exhibits),
        example: example && { ...example, trace: traceView(example.trace) },
      }))
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/functions',
    access: 'read',
    summary:
      'Whether time, logs, logins, traps and names get through, link by link; approved resolvers are the value name_servers of a fitted benchmark',
    query: asOf,
    handle: async ({ services, engagementId, query }) => {
      const { functions } = await services.traffic.ask(await snapshotOf(services, engagementId, query.snapshot), {
        ask: 'functions',
        resolvers: await resolversOf(services, engagementId),
      })
      return functions.map((one) => ({
        ...one,
        links: one.links.map(({ trace, ...link }) => ({
          ...link,
          exhibits: lines(link.exhibits),
          trace: trace && { ...trace, trace: traceView(trace.trace) },
        })),
      }))
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/changes',
    access: 'read',
    summary: 'Which flows have another fate in snapshot b than in a, from where to where, and because of which lines',
    query: z.object({
      a: z.coerce.number().int().positive(),
      b: z.coerce.number().int().positive(),
      only: z.string().trim().max(2000).optional(),
    }),
    handle: async ({ services, engagementId, query: { a, b, only } }) => {
      const [before, after] = await Promise.all([
        snapshotOf(services, engagementId, a),
        snapshotOf(services, engagementId, b),
      ])
      const { changes, gone, added } = await services.traffic.ask(
        after,
        { ask: 'changes', only: only || null },
        { before },
      )
      return {
        gone,
        added,
        changes: changes.map(({ readable, example, lines: said, ...change }) => ({
          ...change,
          classes: readable.classes,
          whole: readable.whole,
          lines: { before: lines(said.before), after: lines(said.after) },
          example: example && {
            at: example.at,
            port: example.port,
            packet: example.packet,
            before: traceView(example.before),
            after: traceView(example.after),
          },
        })),
      }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/lists',
    access: 'read',
    summary: 'The access lists of every device, by name',
    query: asOf,
    handle: async ({ services, engagementId, query }) =>
      (await services.traffic.ask(await snapshotOf(services, engagementId, query.snapshot), { ask: 'lists' })).lists,
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/lists/compared',
    access: 'read',
    summary: 'On which headers two lists do not agree: those that only the first permits, and only the second',
    query: asOf.extend({ a: listName, b: listName }),
    handle: async ({ services, engagementId, query: { snapshot, a, b } }) => {
      const { onlyFirst, onlySecond } = await services.traffic.ask(await snapshotOf(services, engagementId, snapshot), {
        ask: 'compare lists',
        a,
        b,
      })
      return { onlyFirst, onlySecond }
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/traffic/expectations/:id/confirm',
    access: 'write-rules',
    summary: 'Says that an expectation is meant although it never held: its being broken is told from then on',
    handle: async ({ services, caller, engagementId, params }) => {
      await services.traffic.confirm(engagementId, params['id'] ?? '', caller.user.id)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'expectation confirmed',
        detail: { expectation: params['id'] ?? '' },
      })
      return {}
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/trace',
    access: 'read',
    summary: 'One packet on all its paths, with every decision and its lines',
    query: asOf.extend(traceQuestionSchema.shape),
    handle: async ({ services, engagementId, query: { snapshot, ...question } }) => {
      const { trace, picture } = await services.traffic.ask(await snapshotOf(services, engagementId, snapshot), {
        ask: 'trace',
        question,
      })
      return traceView(trace, picture)
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/filters',
    access: 'read',
    summary: 'What is odd about access lists, line by line',
    query: asOf,
    handle: async ({ services, engagementId, query }) => {
      const { findings } = await services.traffic.ask(await snapshotOf(services, engagementId, query.snapshot), {
        ask: 'filters',
      })
      return findings.map((finding) => ({ ...finding, exhibits: lines(finding.exhibits) }))
    },
  }),
]
