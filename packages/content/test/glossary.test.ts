import { expect } from 'chai'
import { readFileSync } from 'node:fs'
import { glossary } from '../src/index.ts'

const root = new URL('../../../', import.meta.url)

describe('the glossary', () => {
  it('is published as it ships', async () => {
    const made = (await import(new URL('docs/glossary.mjs', root).href)) as { glossaryText: () => string }
    expect(readFileSync(new URL('docs/glossary.md', root), 'utf8')).to.equal(made.glossaryText())
  })
  it('is in the order of its letters, each word once, each meaning in whole sentences', () => {
    const terms = glossary().map(({ term }) => term)
    expect(terms).to.deep.equal([...new Set(terms)].sort((a, b) => a.localeCompare(b, 'en')))
    for (const { term, meaning } of glossary()) expect(meaning, term).to.match(/^[A-Z“"].*\.$/)
  })
  it('has no sentence longer than 30 words', () => {
    for (const { term, meaning } of glossary())
      for (const sentence of meaning.split(/(?<=[.;]) /)) expect(sentence.split(' ').length, term).to.be.at.most(30)
  })
})
