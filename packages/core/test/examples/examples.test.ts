import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { expect } from 'chai'

const readme = readFileSync(new URL('../../README.md', import.meta.url), 'utf8')
const blocks = (language: string): string[] =>
  [...readme.matchAll(new RegExp(`^\`\`\`${language}\\n(.*?)^\`\`\`$`, 'gms'))].map(([, text]) => text ?? '')

describe('examples of the README', () => {
  for (const [i, name] of ['read', 'judge', 'ask'].entries())
    it(`${name}: stands there as it is run, and prints what stands there`, () => {
      const file = new URL(`../../examples/${name}.ts`, import.meta.url)
      expect(blocks('ts')[i]).to.equal(readFileSync(file, 'utf8'))
      const printed = execFileSync(process.execPath, ['--import', 'tsx', file.pathname], { encoding: 'utf8' })
      expect(blocks('text')[i]).to.equal(printed)
    }).timeout(60_000)
})
