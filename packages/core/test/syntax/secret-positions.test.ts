import { expect } from 'chai'
import { MaskedLines, dialectById, dialects, maskWithKey } from '../../src/index.ts'
import { maskLine } from '../../src/syntax/index.ts'
import { HARMLESS, SECRETS } from './secret-positions.ts'

const mask = maskWithKey(new Uint8Array(32).fill(7))

/** Blocks and the line within: the line as it is shown. */
function shown(id: string, row: string): string {
  const dialect = dialectById(id)
  if (!dialect) return dialects.reduce((line, known) => maskLine(line, null, known, mask), row)
  if (id !== 'indented') return maskLine(row, null, dialect, mask)
  const parts = row.split(' > ')
  const text = parts.map((part, depth) => `${' '.repeat(depth)}${part}`).join('\n')
  return new MaskedLines(dialect.read(`hostname a\n${text}\nend\n`), dialect, mask).at(1 + parts.length)
}

const lastOf = (row: string): string => row.split(' > ').at(-1) ?? ''

describe('a secret, wherever it stands', () => {
  const rows = Object.entries(SECRETS).flatMap(([id, lines]) =>
    lines.filter((line) => line.includes('«')).map((line) => [id, line] as const),
  )

  it('is tried in at least 250 places', () => {
    expect(rows.length).to.be.above(250)
  })

  for (const [id, row] of rows) {
    it(`${id}: ${row}`, () => {
      const secrets = [...row.matchAll(/«([^»]*)»/g)].map(([, secret = '']) => secret)
      const line = shown(id, row.replaceAll(/[«»]/g, ''))
      for (const secret of secrets) expect(line).to.not.contain(secret)
      expect(line).to.contain('‹secret:')
      // What says that it is a secret stays readable.
      const before = lastOf(row).split('«')[0]?.trim() ?? ''
      expect(line.replaceAll(/\s+/g, ' ')).to.contain(before.split(/[\s"]/).filter(Boolean)[0] ?? '')
    })
  }
})

describe('a line without a secret', () => {
  for (const [id, lines] of Object.entries(HARMLESS)) {
    for (const row of lines) it(`${id}: ${row}`, () => expect(shown(id, row).trim()).to.equal(lastOf(row)))
  }
})
