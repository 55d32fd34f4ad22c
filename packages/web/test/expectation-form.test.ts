import { readExpectations } from '@jurybox/core/forwarding'
import { expect } from 'chai'
import fc from 'fast-check'
import {
  BLANK,
  MUSTS,
  fieldsOf,
  idFor,
  missingField,
  withExpectation,
  withoutExpectation,
  type ExpectationFields,
} from '../src/traffic/expectation-form.ts'

const words = fc.string({ minLength: 1, maxLength: 14 }).filter((text) => text.trim() === text && text !== '')
const some = fc.array(words, { minLength: 1, maxLength: 3 })
const all: fc.Arbitrary<ExpectationFields> = fc
  .record({
    title: words,
    from: some,
    to: some,
    only: fc.constantFrom('', 'tcp dst port 443'),
    packets: fc.constantFrom('first' as const, 'all' as const),
    must: fc.constantFrom(...MUSTS),
    through: some,
    by: fc.subarray(['ipsec', 'macsec', 'attested'], { minLength: 1 }),
    algorithms: fc.array(words, { maxLength: 2 }),
    between: fc.constantFrom([], ['a', 'b']),
    paths: fc.integer({ min: 2, max: 4 }),
    severity: fc.constantFrom('info', 'low', 'medium', 'high'),
    references: fc.constantFrom([], ['pci-dss-4.0.1:1.3.1']),
  })
  .map((fields) => ({
    ...BLANK,
    ...fields,
    id: 'one',
    // What another kind asks for is not written.
    through: fields.must === 'pass-through' || fields.must === 'never-through' ? fields.through : [],
    by: fields.must === 'protected' ? fields.by : BLANK.by,
    algorithms: fields.must === 'protected' ? fields.algorithms : [],
    between: fields.must === 'protected' ? fields.between : [],
    paths: fields.must === 'paths' ? fields.paths : BLANK.paths,
  }))

const FILE = `# Agreed with the card team.
expectations:
  - id: cards # stays
    title: Cards
    from: outside
    to: 10.40.60.0/24
    must: not-arrive
`

describe('expectations as a form', () => {
  it('what is written is read back as it was, and by the core', () =>
    fc.assert(
      fc.property(all, (fields) => {
        const text = withExpectation(FILE, fields, null)
        expect(fieldsOf(text, 'one')).to.deep.equal(fields)
        expect(readExpectations({ path: 'expectations.yaml', text }).map(({ id }) => id)).to.deep.equal([
          'cards',
          'one',
        ])
      }),
    ))

  it('keeps everything else as it is written', () => {
    const text = withExpectation(FILE, { ...BLANK, id: 'b', title: 'B', from: ['x'], to: ['y'] }, null)
    expect(text.startsWith(FILE)).to.equal(true)
    expect(withoutExpectation(text, 'b')).to.equal(FILE)
    expect(withoutExpectation(FILE, 'nothing')).to.equal(FILE)
  })

  it('replaces one in its place, also under another id', () => {
    const fields = fieldsOf(FILE, 'cards')
    if (!fields) throw new Error('it is not there')
    const text = withExpectation(FILE, { ...fields, id: 'card-systems', severity: 'high' }, 'cards')
    expect(fieldsOf(text, 'cards')).to.equal(null)
    expect(fieldsOf(text, 'card-systems')).to.include({ severity: 'high', must: 'not-arrive' })
  })

  it('refuses an id that another has, and a text that is no YAML', () => {
    const again = { ...BLANK, id: 'cards', title: 'B', from: ['x'], to: ['y'] }
    expect(() => withExpectation(FILE, again, null)).to.throw('already an expectation “cards”')
    expect(() => withExpectation('expectations: [', again, null)).to.throw()
  })

  it('begins a file that is empty', () =>
    expect(
      fieldsOf(withExpectation('', { ...BLANK, id: 'a', title: 'A', from: ['x'], to: ['y'] }, null), 'a'),
    ).to.not.equal(null))

  it('is complete when its kind has what it asks for', () => {
    const base = { ...BLANK, id: 'a', title: 'A', from: ['x'], to: ['y'] }
    expect(missingField(base)).to.equal(null)
    expect(missingField({ ...base, to: [] })).to.equal('to')
    expect(missingField({ ...base, must: 'pass-through' })).to.equal('through')
    expect(missingField({ ...base, must: 'pass-through', through: ['fw1'] })).to.equal(null)
    expect(missingField({ ...base, must: 'protected', between: ['a'] })).to.equal('between')
  })

  it('makes an id of a title', () =>
    expect(idFor('Nobody outside reaches “cards”!')).to.equal('nobody-outside-reaches-cards'))
})
