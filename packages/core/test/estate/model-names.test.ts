import { expect } from 'chai'
import { isObjectId, modelNameSchema, nameOfModel } from '../../src/estate/index.ts'

const names = [{ objectId: '1.3.6.1.4.1.99999.1.7', name: 'C-68' }]

describe('names of models', () => {
  it('stand for the object identifiers that agents state, and for nothing else', () => {
    expect(nameOfModel('1.3.6.1.4.1.99999.1.7', names)).to.equal('C-68')
    expect(nameOfModel('1.3.6.1.4.1.99999.1.70', names)).to.equal('1.3.6.1.4.1.99999.1.70')
    expect(nameOfModel('C-40', names)).to.equal('C-40')
    expect(nameOfModel(null, names)).to.equal(null)
  })

  for (const [text, is] of [
    ['1.3.6.1.4.1.99999.1.7', true],
    ['0.0', true],
    ['1', false],
    ['3.1', false],
    ['.1.3.6', false],
    ['1.3.6.', false],
    ['1..3', false],
    ['C-68', false],
    ['5.1', false],
  ] as const) {
    it(`“${text}” is ${is ? 'an' : 'no'} object identifier`, () => {
      expect(isObjectId(text)).to.equal(is)
      expect(modelNameSchema.safeParse({ objectId: text, name: 'x' }).success).to.equal(is)
    })
  }
})
