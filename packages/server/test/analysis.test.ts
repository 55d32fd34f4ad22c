import { gunzipSync } from 'node:zlib'
import { expect } from 'chai'
import { prepare, readBenchmark } from '@jurybox/core'
import { DeviceAnalysis } from '@jurybox/core/analysis'
import { AuditedDevice } from '@jurybox/core/audit'
import { benchmarkTexts } from '@jurybox/content'
import { analysisFor, type AnalysisTask } from '../src/analysis/analyses.ts'
import { AnalysisPool } from '../src/analysis/pool.ts'
import { inOrder } from '../src/analysis/task-records.ts'
import { packVerdicts } from '../src/audits/packed-verdicts.ts'
import { CONFIG, makeWorld, type Client, type World } from './world.ts'

const task = (text: string, more: Partial<AnalysisTask> = {}): AnalysisTask => ({
  dialect: 'indented',
  maskKey: new Uint8Array(32),
  records: [{ id: '0', kind: 'config', dialect: 'indented', text, takenAt: null }],
  ...more,
})

describe('devices that stay read', () => {
  it('are the same analysis for the same records under the same key, and another for others', () => {
    const one = analysisFor(task(CONFIG))
    expect(one).to.be.instanceOf(DeviceAnalysis)
    expect(analysisFor(task(CONFIG))).to.equal(one)
    expect(analysisFor(task(`${CONFIG}ip http server\n`))).not.to.equal(one)
    expect(analysisFor(task(CONFIG, { maskKey: new Uint8Array(32).fill(1) }))).not.to.equal(one)
    const asked = task(CONFIG).records[0]
    if (!asked) throw new Error('no record')
    expect(analysisFor(task(CONFIG, { records: [{ ...asked, id: 'before0' }] }))).not.to.equal(one)
  })
  it('with their real secrets stay nowhere', () => {
    const bare = task(CONFIG, { maskKey: null })
    expect(analysisFor(bare)).not.to.equal(analysisFor(bare))
  })
  it('of a dialect that is not known there are none', () => {
    expect(analysisFor(task(CONFIG, { dialect: 'none' }))).to.equal(null)
  })
  it('are asked for by records in an order of their own', () => {
    const records = [
      { kind: 'state/b', sha256: '1' },
      { kind: 'config', sha256: '2' },
      { kind: 'config', sha256: '1' },
    ]
    expect(inOrder(records)).to.deep.equal(inOrder([...records].reverse()))
    expect(inOrder(records).map(({ kind }) => kind)).to.deep.equal(['config', 'config', 'state/b'])
  })
  it('answer in their threads, one after the other and together', async function () {
    this.timeout(60_000)
    const pool = new AnalysisPool()
    try {
      const texts = Array.from({ length: 12 }, (_, i) => CONFIG.replace('core', `d${i}`))
      const digests = await Promise.all([...texts, ...texts].map((text) => pool.run('digestTask', text, task(text))))
      const names = digests.map(
        (bytes) => (JSON.parse(new TextDecoder().decode(bytes)) as { digest: { hostname: string } }).digest.hostname,
      )
      expect(names).to.deep.equal([...texts, ...texts].map((_, i) => `d${i % 12}`))
      const [reading] = await pool.run('readingTask', 'x', task(`${CONFIG}frobnicate\n`))
      expect(reading?.unread.at(-1)).to.equal(CONFIG.split('\n').length)
    } finally {
      await pool.close()
    }
  })
})

describe('packed verdicts', () => {
  it('hold each whole verdict by itself, in the order of their heads', () => {
    const text = benchmarkTexts().find((one) => /^id: network-hardening$/m.test(one.text))?.text ?? ''
    const bench = prepare({ benchmark: readBenchmark(text), profile: null, values: {} })
    const analysis = analysisFor(task(CONFIG))
    const verdicts = (analysis && AuditedDevice.of('core', analysis)?.verdicts([bench])) ?? []
    const { heads, bodies, ends, counts } = packVerdicts(verdicts)
    expect(heads).to.have.length(verdicts.length).greaterThan(50)
    const opened = ends.map((end, i): unknown =>
      JSON.parse(gunzipSync(bodies.subarray(ends[i - 1] ?? 0, end)).toString()),
    )
    expect(opened).to.deep.equal(JSON.parse(JSON.stringify(verdicts)))
    for (const [i, head] of heads.entries()) expect(opened[i]).to.deep.include(head)
    expect(counts.fail).to.equal(verdicts.filter(({ outcome }) => outcome === 'fail').length)
    // What is cited is quoted when somebody looks.
    expect(JSON.stringify(opened)).not.to.include('"text"')
  })
})

describe('what a verdict cites', function () {
  this.timeout(120_000)
  let world: World
  let lead: Client
  before(async () => {
    world = await makeWorld()
    lead = await world.client('lead')
  })
  after(async () => world.end())

  it('is quoted from the record, and from a damaged one it is said that it is', async () => {
    const base = `/engagements/${world.engagement}`
    const { json: snapshot } = await lead.freeze(world.engagement, { 'core.cfg': CONFIG })
    const { auditId } = await lead.audit(world.engagement, snapshot.id)
    const { json: list } = await lead.get(`${base}/audits/${auditId}/verdicts?outcome=fail`)
    const { database } = world.server.services
    const texts: string[][] = []
    for (const damage of [null, 'UPDATE contents SET body = CONCAT(LEFT(body, 40), REVERSE(SUBSTRING(body, 41)))']) {
      if (damage) await database.query(damage)
      const { json } = await lead.get(`${base}/audits/${auditId}/verdicts/${list.verdicts[0].id}`)
      texts.push(json.verdict.exhibits.map(({ text }: { text: string }) => text))
    }
    const [sound, damaged] = texts
    expect(sound).to.have.length.greaterThan(0)
    for (const text of (sound ?? []).filter(Boolean)) expect(CONFIG).to.include(text.split('\n')[0])
    expect(damaged).to.have.length(sound?.length ?? 0)
    for (const [i, text] of (damaged ?? []).entries())
      expect(text).to.equal(sound?.[i] === '' ? '' : '(the record is damaged)')
  })
})
