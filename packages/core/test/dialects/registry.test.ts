import { readFileSync } from 'node:fs'
import { expect } from 'chai'
import { dialects } from '../../src/index.ts'
import { DIALECT_IDS, commandSets, forwardingRulesOf } from '../../src/dialects/index.ts'

const docs = new URL('../../../../docs/', import.meta.url)

describe('the registry of dialects', () => {
  it('has one folder for each, and no folder without one', () => {
    expect(new Set(DIALECT_IDS).size).to.equal(dialects.length)
    for (const id of DIALECT_IDS)
      expect(readFileSync(new URL(`../../src/dialects/${id}/index.ts`, import.meta.url), 'utf8'), id).to.contain(
        `export const ${id}: Dialect`,
      )
  })

  it('is what documents list', () => {
    const text = readFileSync(new URL('formats/snapshot.md', docs), 'utf8')
    for (const id of DIALECT_IDS) expect(text).to.contain(`**${id}**`)
  })

  for (const { id, collection, forwarding, model, session } of dialects)
    it(`knows all of ${id}: how it is asked, read and forwards`, () => {
      expect(commandSets.get(id)).to.equal(collection)
      expect(collection.dialect).to.equal(id)
      expect(collection.records.some(({ needed }) => needed === true)).to.equal(true)
      expect(forwardingRulesOf(id)).to.equal(forwarding)
      expect(forwarding.stages.arriving.some(({ stage }) => stage === 'lookup')).to.equal(true)
      expect(model.read).to.be.a('function')
      expect(session.prompt).to.be.a('string')
    })
})
