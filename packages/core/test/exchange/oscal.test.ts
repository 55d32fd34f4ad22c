import { expect } from 'chai'
import fc from 'fast-check'
import {
  NAMESPACE,
  assessmentPlan,
  assessmentResults,
  benchmarkCatalog,
  benchmarkComponents,
  findingKey,
  fittingProfile,
  frameworkCatalog,
  planOfAction,
  readFittingProfile,
  readFrameworkCatalog,
  readOscal,
  readPlanOfAction,
  readResults,
  uuid5,
  writeOscal,
  type OscalModel,
  type Told,
} from '../../src/exchange/index.ts'
import { fittingSchema } from '../../src/benchmarks/index.ts'
import { AT, audits, shipped, source } from './stage.ts'

/** Every `uuid` of a document, and what refers to one: `*-uuid` and `#…` of `href` and `source`. */
function identifiers(value: unknown): { readonly defined: string[]; readonly named: string[] } {
  const defined: string[] = []
  const named: string[] = []
  const walk = (one: unknown): void => {
    if (Array.isArray(one)) return one.forEach(walk)
    if (typeof one !== 'object' || one === null) return
    for (const [key, held] of Object.entries(one)) {
      if (key === 'uuid') defined.push(String(held))
      else if (key.endsWith('-uuid')) named.push(String(held))
      else if ((key === 'href' || key === 'source') && String(held).startsWith('#')) named.push(String(held).slice(1))
      walk(held)
    }
  }
  walk(value)
  return { defined, named }
}

/** Written, read by its schema, its identifiers unique, what it refers to there. */
function sound<M extends OscalModel>(model: M, document: Parameters<typeof writeOscal<M>>[1]): void {
  const read = readOscal(writeOscal(model, document), model)
  const { defined, named } = identifiers(read)
  expect(new Set(defined).size, `${model}: an identifier stands twice`).to.equal(defined.length)
  expect(
    named.filter((one) => !defined.includes(one)),
    `${model}: refers to what is not there`,
  ).to.deep.equal([])
}
const plan = (told: Told) => {
  const made = planOfAction(told)
  if (!made) throw new Error('there is no finding')
  return made
}
const hasFinding = ({ document }: Told): boolean =>
  document.verdicts.some(({ outcome }) => ['fail', 'unknown', 'error'].includes(outcome))

describe('OSCAL 1.1, by schemas written from memory of the published models', () => {
  it('identifiers are UUIDs of version 5, as RFC 9562 A.4 makes them', () =>
    expect(uuid5('6ba7b810-9dad-11d1-80b4-00c04fd430c8', 'www.example.com')).to.equal(
      '2ed6657d-e927-568b-95e1-2665a8aea6a2',
    ))

  it('catalogs, profiles and component definitions hold together', () => {
    for (const framework of shipped) sound('catalog', frameworkCatalog(framework, AT))
    sound('catalog', benchmarkCatalog(source, AT))
    sound('profile', fittingProfile(source, { profile: null, values: {}, tailoring: [] }, AT))
    sound('component-definition', benchmarkComponents(source, shipped, AT))
  })

  it('every framework that is shipped comes back as it is, but for its scoring and its words', () => {
    for (const framework of shipped) {
      const text = writeOscal('catalog', frameworkCatalog(framework, AT))
      const { framework: read, lost } = readFrameworkCatalog(readOscal(text, 'catalog'))
      const { scoring: _, ...rest } = framework
      const used = Object.keys(framework.requirements)
      const parts = Object.fromEntries(
        Object.entries(framework.parts).filter(([begin]) =>
          used.some((number) => Object.keys(framework.parts).find((one) => number.startsWith(one)) === begin),
        ),
      )
      expect(read, framework.id).to.deep.equal({ ...rest, parts, answers: {} })
      expect(lost).to.deep.equal([])
    }
  })

  it('says what of a catalog of others a framework cannot hold', () => {
    const { framework, lost } = readFrameworkCatalog(
      readOscal(
        JSON.stringify({
          catalog: {
            uuid: uuid5('6ba7b810-9dad-11d1-80b4-00c04fd430c8', 'a'),
            metadata: { title: 'Own controls', 'last-modified': AT, version: '2', 'oscal-version': '1.1.2' },
            controls: [
              { id: 'own-1', title: 'Doors are shut', parts: [{ name: 'statement', prose: 'All of them.' }] },
              { id: 'own-2', title: 'Lights are out', props: [{ name: 'label', value: '2' }], controls: [] },
              { id: 'own-3', title: 'Windows are shut', props: [{ name: 'label', value: '2' }] },
              { id: '__proto__', title: 'Nothing is inherited' },
            ],
          },
        }),
        'catalog',
      ),
    )
    expect(Object.keys(framework.requirements)).to.have.members(['own-1', '2'])
    expect(lost).to.deep.equal([
      'prose of own-1',
      'controls within own-2',
      'own-3: its number 2 is taken',
      '__proto__: its number __proto__ is taken',
    ])
  })

  it('says which property of which control is not as expected', () => {
    const catalog = (name: string, value: string): string =>
      JSON.stringify({
        catalog: {
          uuid: uuid5('6ba7b810-9dad-11d1-80b4-00c04fd430c8', 'a'),
          metadata: { title: 'Own controls', 'last-modified': AT, version: '2', 'oscal-version': '1.1.2' },
          controls: [{ id: 'own-1', title: 'Doors are shut', props: [{ name, value, ns: NAMESPACE }] }],
        },
      })
    const made = (name: string, value: string) => () => readFrameworkCatalog(readOscal(catalog(name, value), 'catalog'))
    expect(made('decided-by', 'magic')).to.throw('Control own-1, property decided-by: ')
    expect(made('review-days', 'often')).to.throw('Control own-1, property review-days: ')
    expect(made('decided-by', 'person')).not.to.throw()
  })

  it('a fitting comes back: profile, values, rules left out, severities, reasons', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(null, ...source.profiles.map(({ id }) => id)),
        fc.uniqueArray(fc.constantFrom(...source.rules.map(({ id }) => id)), { maxLength: 4 }),
        fc.infiniteStream(fc.constantFrom('high', 'low', 'left', 'kept')),
        fc.record(
          { log_hosts: fc.array(fc.constantFrom('10.0.0.1', '10.0.0.2'), { minLength: 1, maxLength: 2 }) },
          { requiredKeys: [] },
        ),
        (profile, rules, kinds, some) => {
          const values = Object.fromEntries(Object.entries(some).filter(([name]) => name in source.values))
          const tailoring = rules.map((rule) => {
            const kind = kinds.next().value
            return {
              rule,
              reason: 'It is so',
              by: 'Isolde Wren',
              ...(kind === 'left' ? { selected: false } : kind === 'kept' ? { selected: true } : { severity: kind }),
            }
          })
          const fitting = fittingSchema.parse({ benchmark: source.id, profile, values, tailoring })
          const text = writeOscal('profile', fittingProfile(source, fitting, AT))
          const read = readFittingProfile(readOscal(text, 'profile'), source)
          const byRule = (all: typeof fitting.tailoring) => [...all].sort((a, b) => (a.rule < b.rule ? -1 : 1))
          expect({ ...read.fitting, tailoring: byRule(read.fitting.tailoring) }).to.deep.equal({
            ...fitting,
            tailoring: byRule(fitting.tailoring),
          })
        },
      ),
    ))

  it('a profile that names what the benchmark has not is refused', () => {
    const profile = fittingProfile(source, { profile: null, values: {}, tailoring: [] }, AT)
    const other = { ...profile, imports: [{ href: '#x', 'exclude-controls': [{ 'with-ids': ['nobody'] }] }] }
    expect(() => readFittingProfile(other, source)).to.throw('has no control "nobody"')
    const set = { ...profile, modify: { 'set-parameters': [{ 'param-id': 'weather', values: ['fair'] }] } }
    expect(() => readFittingProfile(set, source)).to.throw('has no parameter "weather"')
    expect(() => readOscal('{', 'profile')).to.throw('no JSON')
    expect(() => readOscal('{"catalog":{}}', 'profile')).to.throw('no OSCAL profile: profile')
  })

  it('plans and results hold together, whatever the texts', () =>
    fc.assert(
      fc.property(audits, (told) => {
        sound('assessment-plan', assessmentPlan(told))
        const results = assessmentResults(told)
        // The plan is a document of its own, named in the back matter.
        sound('assessment-results', results)
        expect(results['import-ap'].href).to.equal(`#${assessmentPlan(told).uuid}`)
      }),
      { numRuns: 60 },
    ))

  it('results come back: every verdict with its outcome and note', () =>
    fc.assert(
      fc.property(audits, (told) => {
        const text = writeOscal('assessment-results', assessmentResults(told))
        const { outcomes, lost } = readResults(readOscal(text, 'assessment-results'))
        expect(lost).to.deep.equal([])
        expect(outcomes).to.deep.equal(
          told.document.verdicts.map(({ device, benchmark, rule, outcome, note }) => ({
            ...{ device, benchmark, rule, outcome },
            note: note === '' ? outcome : note,
          })),
        )
      }),
      { numRuns: 60 },
    ))

  it('nothing is satisfied that has not passed everywhere', () =>
    fc.assert(
      fc.property(audits, (told) => {
        for (const finding of assessmentResults(told).results[0]?.findings ?? []) {
          const rule = finding.target['target-id'].slice(source.id.length + 1)
          const own = told.document.verdicts.filter((one) => one.rule === rule)
          const isMet = own.every(({ outcome }) => outcome === 'pass' || outcome === 'notapplicable')
          const passed = own.some(({ outcome }) => outcome === 'pass')
          expect(finding.target.status.state === 'satisfied').to.equal(isMet && passed)
        }
      }),
      { numRuns: 60 },
    ))

  it('a plan of action holds together, and the state of each finding comes back', () =>
    fc.assert(
      fc.property(audits.filter(hasFinding), (told) => {
        sound('plan-of-action-and-milestones', plan(told))
        const text = writeOscal('plan-of-action-and-milestones', plan(told))
        const { marks, lost } = readPlanOfAction(readOscal(text, 'plan-of-action-and-milestones'))
        expect(lost).to.deep.equal([])
        for (const verdict of told.document.verdicts) {
          const key = findingKey(verdict)
          const { done = false, due = null, comment = '' } = told.marks.get(key) ?? {}
          if (['fail', 'unknown', 'error'].includes(verdict.outcome))
            expect(marks.get(key)).to.deep.equal({ done, due, comment })
          else expect(marks.has(key)).to.equal(false)
        }
      }),
      { numRuns: 60 },
    ))

  it('an item of somebody else is told, not guessed at', () => {
    const [told] = fc.sample(audits.filter(hasFinding), { numRuns: 1, seed: 1 })
    if (!told) throw new Error('nothing was sampled')
    const other = plan(told)
    const [first, ...more] = other['poam-items']
    const { props: _, ...bare } = first ?? { title: '', description: '', uuid: '' }
    const { lost } = readPlanOfAction({ ...other, 'poam-items': [bare, ...more] })
    expect(lost).to.deep.equal([`item “${first?.title ?? ''}”`])
  })

  it('the same audit has the same identifiers, whenever it is written', () => {
    const [told] = fc.sample(audits, { numRuns: 1, seed: 2 })
    if (!told) throw new Error('nothing was sampled')
    const later = { ...told, madeAt: '2027-01-01T00:00:00Z' }
    expect(identifiers(assessmentResults(later)).defined).to.deep.equal(identifiers(assessmentResults(told)).defined)
  })
})
