import {
  compareAccessLists,
  compareTraffic,
  confirmExpectation,
  listAccessLists,
  listExpectations,
  listFilterFindings,
  listFunctions,
  listNames,
  listNetworkFindings,
  listPlaces,
  askReach,
  setOutside,
  setTrafficFile,
  askSurvey,
  askTrace,
} from '@jurybox/api/traffic'
import type { Trace } from '@jurybox/core'
import { withOutside, type ForwardingExhibit, type Picture, type ShownSet } from '@jurybox/core/forwarding'
import { Fittings } from '../benchmarks/entity.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import { notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'

async function snapshotOf(services: Services, engagementId: number, id: number | undefined): Promise<SnapshotRow> {
  const snapshot = await services.snapshots.asOf(engagementId, id)
  if (!snapshot) throw notFound('snapshot')
  return snapshot
}

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
  route(listExpectations, async ({ services, engagementId, query }) => {
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
  }),
  route(setOutside, async ({ services, caller, engagementId, body: { ports } }) => {
    const text = (await services.traffic.file(engagementId, 'links'))?.text ?? ''
    await services.traffic.state(engagementId, 'links', withOutside(text, ports), caller.user.id)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'outside interfaces declared',
      detail: { ports },
    })
    return undefined
  }),
  route(setTrafficFile, async ({ services, caller, engagementId, params, body }) => {
    const { kind } = params
    if (kind !== 'expectations' && kind !== 'links') throw notFound('page')
    await services.traffic.state(engagementId, kind, body.text, caller.user.id)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: `${kind} stated`,
      detail: { length: body.text.length },
    })
    return undefined
  }),
  route(listPlaces, async ({ services, engagementId, query }) => {
    const { places, points, outside, declared, tables } = await services.traffic.ask(
      await snapshotOf(services, engagementId, query.snapshot),
      { ask: 'places' },
    )
    return { places, points, outside, declared, tables }
  }),
  route(listNames, async ({ services, engagementId, query }) => {
    const { hosts, ports } = await services.traffic.ask(await snapshotOf(services, engagementId, query.snapshot), {
      ask: 'names',
    })
    return { hosts, ports }
  }),
  route(askReach, async ({ services, engagementId, query: { snapshot, from, to, only } }) => {
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
  }),
  route(askSurvey, async ({ services, engagementId, query: { snapshot, from, to, only } }) => {
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
  }),
  route(listNetworkFindings, async ({ services, engagementId, query }) => {
    const { findings } = await services.traffic.ask(await snapshotOf(services, engagementId, query.snapshot), {
      ask: 'findings',
    })
    return findings.map(({ example, ...finding }) => ({
      ...finding,
      exhibits: lines(finding.exhibits),
      example: example && { ...example, trace: traceView(example.trace) },
    }))
  }),
  route(listFunctions, async ({ services, engagementId, query }) => {
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
  }),
  route(compareTraffic, async ({ services, engagementId, query: { a, b, only } }) => {
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
  }),
  route(
    listAccessLists,
    async ({ services, engagementId, query }) =>
      (await services.traffic.ask(await snapshotOf(services, engagementId, query.snapshot), { ask: 'lists' })).lists,
  ),
  route(compareAccessLists, async ({ services, engagementId, query: { snapshot, a, b } }) => {
    const { onlyFirst, onlySecond } = await services.traffic.ask(await snapshotOf(services, engagementId, snapshot), {
      ask: 'compare lists',
      a,
      b,
    })
    return { onlyFirst, onlySecond }
  }),
  route(confirmExpectation, async ({ services, caller, engagementId, params }) => {
    await services.traffic.confirm(engagementId, params.expectation, caller.user.id)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'expectation confirmed',
      detail: { expectation: params.expectation },
    })
    return undefined
  }),
  route(askTrace, async ({ services, engagementId, query: { snapshot, ...question } }) => {
    const { trace, picture } = await services.traffic.ask(await snapshotOf(services, engagementId, snapshot), {
      ask: 'trace',
      question,
    })
    return traceView(trace, picture)
  }),
  route(listFilterFindings, async ({ services, engagementId, query }) => {
    const { findings } = await services.traffic.ask(await snapshotOf(services, engagementId, query.snapshot), {
      ask: 'filters',
    })
    return findings.map((finding) => ({ ...finding, exhibits: lines(finding.exhibits) }))
  }),
]
