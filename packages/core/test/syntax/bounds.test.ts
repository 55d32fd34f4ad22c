import { readSnapshot } from '@jurybox/core'
import { READING_LIMITS, beyondLimits, readYaml, schemaFault } from '@jurybox/core/syntax'
import { expect } from 'chai'
import { z } from 'zod'

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)
const told = (work: () => unknown): string => {
  try {
    work()
    return ''
  } catch (error) {
    return error instanceof Error ? error.message : String(error)
  }
}

describe('what a text may ask for', () => {
  it('is bounded in depth: one level less is read, one more is not', () => {
    const nested = (depth: number): string => `${'a { '.repeat(depth)}x;${' }'.repeat(depth)}`
    expect(beyondLimits(nested(READING_LIMITS.depth))).to.equal(null)
    expect(beyondLimits(nested(READING_LIMITS.depth + 1))).to.equal('it nests deeper than 200 levels')
    const elements = (depth: number): string => `${'<a>'.repeat(depth)}x${'</a>'.repeat(depth)}`
    expect(beyondLimits(elements(READING_LIMITS.depth))).to.equal(null)
    expect(beyondLimits(elements(READING_LIMITS.depth + 1))).to.equal('it nests deeper than 200 levels')
    expect(beyondLimits(`<a>${'<b/>'.repeat(READING_LIMITS.depth * 2)}</a>`), 'side by side').to.equal(null)
  })

  it('is bounded in statements', () => {
    expect(beyondLimits('\n'.repeat(READING_LIMITS.statements))).to.equal(null)
    expect(beyondLimits('\n'.repeat(READING_LIMITS.statements + 1))).to.equal('it has more than 2000000 statements')
  })

  it('is bounded in the length of a line', () => {
    const line = 'a'.repeat(READING_LIMITS.lineCharacters)
    expect(beyondLimits(`x\n${line}\ny`)).to.equal(null)
    expect(beyondLimits(`x\n${line}a\ny`)).to.equal('it has a line of more than 20000000 characters')
    expect(beyondLimits(`x\n${line}a`)).to.equal('it has a line of more than 20000000 characters')
  })

  it('is told of the file that asks for more, and the others are read', () => {
    const { devices, refused } = readSnapshot([
      { path: 'a.cfg', bytes: bytes(`system {\n${'{'.repeat(1_000_000)}`) },
      { path: 'b.cfg', bytes: bytes('hostname b\nip http server\n') },
      { path: 'devices/c/state/routes.json', bytes: bytes('['.repeat(1_000_000)) },
    ])
    expect(devices.map(({ name }) => name)).to.deep.equal(['b'])
    expect(refused).to.deep.equal([
      { path: 'a.cfg', reason: 'it nests deeper than 200 levels' },
      { path: 'devices/c/state/routes.json', reason: 'it nests deeper than 200 levels' },
    ])
  })
})

describe('YAML from outside', () => {
  it('is read as it stands', () => {
    expect(readYaml('a: 1\nb: [x, y]\nc: { d: true }\n')).to.deep.equal({ a: 1, b: ['x', 'y'], c: { d: true } })
    expect(readYaml('')).to.equal(null)
  })

  it('may not say one key twice, at whatever level', () => {
    expect(told(() => readYaml('a: 1\nb: 2\na: 3\n'))).to.equal('the key a is duplicated in one map at line 3')
    expect(told(() => readYaml('a:\n  - { b: 1, b: 2 }\n'))).to.contain('the key b is duplicated')
  })

  it('does not grow by its aliases, nor go deeper than is read', () => {
    const laughs = Array.from({ length: 9 }, (_, i) => `a${i + 1}: &a${i + 1} [${Array(9).fill(`*a${i}`).join(', ')}]`)
    expect(told(() => readYaml(['a0: &a0 [ha]', ...laughs].join('\n')))).to.contain('alias')
    expect(told(() => readYaml('['.repeat(300)))).to.contain('nests deeper than 200 levels')
    expect(told(() => readYaml(`${'- '.repeat(200_000)}a`))).to.not.equal('')
    expect(told(() => readYaml(`a: ${'x'.repeat(2_000_000)}`))).to.contain('longer than 2000000 characters')
  })
})

describe('what does not fit a schema', () => {
  it('is told in one line, with the place, however long a name is', () => {
    const schema = z.strictObject({ a: z.string(), b: z.array(z.strictObject({ c: z.number() })) })
    const read = schema.safeParse({ a: 1, b: [{ c: 'x' }], ['\n '.repeat(200_000)]: 0 })
    const words = read.success ? '' : schemaFault(read.error)
    expect(words).to.contain('expected string').and.contain('b[0].c').and.not.contain('\n')
    expect(words.length).to.be.lessThan(1200)
  })

  it('is told of the first of many, with how many there are', () => {
    const read = z.array(z.number()).safeParse(Array.from({ length: 100 }, () => 'x'))
    expect(read.success ? '' : schemaFault(read.error)).to.contain('… and 92 more')
  })
})
