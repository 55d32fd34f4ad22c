import { expect } from 'chai'
import fc from 'fast-check'
import { compileExpression } from '../../src/rules/expression.ts'
import { vlanRanges, vlansOf } from '../../src/model/vlans.ts'
import { dialectById } from '../../src/index.ts'
import { EffectiveConfig, modelOf } from '../../src/model/index.ts'

const ids = fc.uniqueArray(fc.integer({ min: 1, max: 4094 }), { maxLength: 40 })

describe('a list of VLANs', () => {
  for (const [text, named] of [
    ['30', [30]],
    ['30, 40-42', [30, 40, 41, 42]],
    ['none', []],
    ['4090-5000', [4090, 4091, 4092, 4093, 4094]],
    ['CARDS,40', [30, 40]],
    ['30,except 40', null],
    ['OTHERS', null],
    ['', null],
  ] as const) {
    it(`“${text}” names ${named === null ? 'nothing that is known' : `${named.length}`}`, () => {
      const found = vlansOf(text, (name) => (name === 'CARDS' ? 30 : undefined))
      expect(found && [...found]).to.deep.equal(named)
    })
  }

  it('“all” and “except” are of 4094 (IEEE 802.1Q, 9.6)', () => {
    expect(vlansOf('all')).to.have.property('size', 4094)
    expect(vlansOf('except 2-4000')).to.have.property('size', 4094 - 3999)
    expect(vlansOf('except OTHERS')).to.equal(null)
  })

  it('is the same when it is written in ranges and read again', () =>
    fc.assert(
      fc.property(ids, (some) => {
        const written = vlanRanges(new Set(some))
        expect([...(vlansOf(written) ?? [])]).to.deep.equal([...some].sort((a, b) => a - b))
      }),
    ))

  describe('in the expressions of rules', () => {
    const evaluate = (source: string): unknown => compileExpression(source).evaluate({})
    it('counts and compares', () => {
      expect(evaluate('vlanCount("1-10,20")')).to.equal(11n)
      expect(evaluate('vlansWithin("11,12", "10-20")')).to.equal(true)
      expect(evaluate('vlansWithin("11,30", "10-20")')).to.equal(false)
    })
    it('is an error where it is not understood, and never within another', () => {
      expect(() => evaluate('vlansWithin("CARDS", "10-20")')).to.throw('“CARDS” is no list of VLANs')
      expect(() => evaluate('vlanCount("CARDS")')).to.throw('“CARDS” is no list of VLANs')
    })
  })

  for (const [lines, allowed] of [
    [['30-32', 'remove 31'], '30,32'],
    [['all', 'remove 2-4094'], '1'],
    [['remove 40'], '1-39,41-4094'],
    [['except 1-4093'], '4094'],
    [['30', 'remove 30'], 'none'],
    [['CARDS', 'remove 30'], 'CARDS'],
  ] as const) {
    it(`of a trunk: ${lines.join(', then ')}`, () => {
      const said = lines.map((line) => ` switchport trunk allowed vlan ${line}\n`).join('')
      const dialect = dialectById('indented')
      if (!dialect) throw new Error('the dialect is missing')
      const tree = dialect.read(`interface Gi1/0/1\n switchport mode trunk\n${said}`)
      const { model } = modelOf(EffectiveConfig.of(tree, dialect), { record: 'r', mask: () => '' })
      expect(model.interfaces[0]?.switching.allowedVlans).to.equal(allowed)
    })
  }
})
