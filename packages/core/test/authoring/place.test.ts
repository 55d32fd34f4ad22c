import { readFileSync } from 'node:fs'
import { expect } from 'chai'
import fc from 'fast-check'
import { offersAt, placeAt } from '../../src/authoring/index.ts'

const schema = JSON.parse(
  readFileSync(new URL('../../../../docs/formats/benchmark.schema.json', import.meta.url), 'utf8'),
) as object

describe('A place in a text that is being written', () => {
  /** The cursor stands at `|`. */
  const cases: [string, string, 'key' | 'value', string][] = [
    ['|', '', 'key', ''],
    ['ti|', '', 'key', 'ti'],
    ['title: Ow|n', 'title', 'value', 'Ow'],
    ['rules:\n  - id: x\n    sev|', 'rules/*', 'key', 'sev'],
    ['rules:\n  - id: x\n    severity: hi|', 'rules/*/severity', 'value', 'hi'],
    ['rules:\n- id: x\n  sev|', 'rules/*', 'key', 'sev'],
    ['rules:\n- |', 'rules/*', 'key', ''],
    [
      'rules:\n  - id: x\n    decide:\n      - id: a\n        when: { all: [{ l|',
      'rules/*/decide/*/when/all/*',
      'key',
      'l',
    ],
    ['rules:\n  - id: x\n    decide:\n      - { id: a, outcome: p|', 'rules/*/decide/*/outcome', 'value', 'p'],
    ['rules:\n  - id: x\n    decide:\n      - { id: a, when: "a: {b", o|', 'rules/*/decide/*', 'key', 'o'],
    ['rules:\n  - id: x\n\n    # remark\n    remedy:\n      |', 'rules/*/remedy', 'key', ''],
    ['rules:\n  - id: x\n    decide:\n      - id: a\n  - |', 'rules/*', 'key', ''],
    ['rules:\n  - id: x\nvalues:\n  a: { type: |', 'values/a/type', 'value', ''],
  ]
  for (const [marked, path, at, word] of cases) {
    it(JSON.stringify(marked), () => {
      const offset = marked.indexOf('|')
      const place = placeAt(marked.replace('|', ''), offset)
      expect([place.path.join('/'), place.at, place.word, place.from]).to.deep.equal([
        path,
        at,
        word,
        offset - word.length,
      ])
    })
  }

  it('is told of any text', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom(...'ab:-{}[],\'"# \n') }), fc.nat(), (text, at) => {
        const offset = at % (text.length + 1)
        const { from, word } = placeAt(text, offset)
        return text.slice(from, offset) === word
      }),
    )
  })

  const offered = (path: string, at: 'key' | 'value'): readonly string[] =>
    offersAt(schema, { path: path === '' ? [] : path.split('/'), at })
  it('the schema says what can stand there', () => {
    expect(offered('', 'key')).to.include.members(['id', 'title', 'rules', 'values', 'profiles'])
    expect(offered('rules/*', 'key')).to.include.members(['severity', 'decide', 'remedy', 'examples'])
    expect(offered('rules/*/severity', 'value')).to.have.members(['info', 'low', 'medium', 'high'])
    expect(offered('rules/*/decide/*/outcome', 'value')).to.include.members([
      'pass',
      'fail',
      'unknown',
      'notapplicable',
    ])
    expect(offered('rules/*/decide/*/when', 'key')).to.include.members(['line', 'absent', 'all', 'exactly', 'ends'])
    expect(offered('rules/*/decide/*/when/all/*/none/*', 'key')).to.include('model')
    expect(offered('rules/*/decide/*/when/order/*', 'key')).to.deep.equal([])
    expect(offered('values/limit/type', 'value')).to.include.members(['int', 'hosts', 'prefixes'])
    expect(offered('no/such/place', 'key')).to.deep.equal([])
  })
})
