import { compileScope } from '@jurybox/core/rules'
import { expect } from 'chai'
import fc from 'fast-check'
import { ATTRIBUTES, operatorsOf, readScope, writeScope, type ScopeForm } from '../src/shared/scope-form.ts'

const words = fc.string({ minLength: 1, maxLength: 12 }).filter((text) => text.trim() !== '')
const term = fc
  .constantFrom(...ATTRIBUTES, 'labels.handles_card_data')
  .chain((attribute) =>
    fc
      .constantFrom(...operatorsOf(attribute))
      .chain((operator) =>
        fc.record({
          attribute: fc.constant(attribute),
          operator: fc.constant(operator),
          values: operator === 'one-of' ? fc.array(words, { minLength: 1, maxLength: 4 }) : words.map((one) => [one]),
        }),
      ),
  )
const forms: fc.Arbitrary<ScopeForm> = fc
  .record({
    join: fc.constantFrom('&&' as const, '||' as const),
    terms: fc.array(term, { minLength: 1, maxLength: 4 }),
  })
  // One condition is joined by nothing.
  .map((form) => (form.terms.length === 1 ? { ...form, join: '&&' as const } : form))

describe('scopes as a form', () => {
  it('what is written is read back as it was', () =>
    fc.assert(fc.property(forms, (form) => void expect(readScope(writeScope(form))).to.deep.equal(form))))

  it('what is written is a scope that compiles', () =>
    fc.assert(fc.property(forms, (form) => void compileScope(writeScope(form)))))

  const cases: [string, ScopeForm | null][] = [
    ['', { join: '&&', terms: [] }],
    ['device.site == "north"', { join: '&&', terms: [{ attribute: 'site', operator: 'is', values: ['north'] }] }],
    [
      'device.role in ["core", "edge"] || "shore" in device.sites',
      {
        join: '||',
        terms: [
          { attribute: 'role', operator: 'one-of', values: ['core', 'edge'] },
          { attribute: 'sites', operator: 'has', values: ['shore'] },
        ],
      },
    ],
    [
      'device.labels.handles_card_data == true',
      { join: '&&', terms: [{ attribute: 'labels.handles_card_data', operator: 'is', values: ['true'] }] },
    ],
    ['device.name == "a && b"', { join: '&&', terms: [{ attribute: 'name', operator: 'is', values: ['a && b'] }] }],
    // What the form cannot show stays text.
    ['device.site == "a" && device.role == "b" || device.name == "c"', null],
    ['interfaces.size() > 4', null],
    ['device.labels.handles_card_data', null],
    ['device.changedDays < 7', null],
  ]
  for (const [text, form] of cases) it(text || 'nothing', () => expect(readScope(text)).to.deep.equal(form))

  it('conditions that are not whole are left out', () => {
    expect(
      writeScope({
        join: '&&',
        terms: [
          { attribute: 'site', operator: 'is', values: ['north'] },
          { attribute: 'role', operator: 'is', values: [''] },
          { attribute: 'labels.', operator: 'is', values: ['x'] },
        ],
      }),
    ).to.equal('device.site == "north"')
  })
})
