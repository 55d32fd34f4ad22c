// `npm run mutate [-- --folder rules,headers,forwarding --count 20 --seed 1]`: how well the tests of the core hold.
// Changes one place of a source at a time, in a copy, and runs the tests of its folder. What they do not notice is
// listed with its place: a test is missing, or the change means the same. The same seed changes the same places.
import { spawnSync } from 'node:child_process'
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, relative } from 'node:path'
import { fileURLToPath } from 'node:url'
import { globSync } from 'tinyglobby'
import ts from 'typescript'

const root = fileURLToPath(new URL('..', import.meta.url))
const given = (name, usual) => {
  const at = process.argv.indexOf(`--${name}`)
  return at < 0 ? usual : (process.argv[at + 1] ?? usual)
}
const folders = given('folder', 'rules,headers,forwarding').split(',')
const count = Number(given('count', '20'))
const limitMs = Number(given('seconds', '180')) * 1000

/** Mulberry32: the same numbers of the same seed. */
let state = Number(given('seed', '1')) >>> 0
function random() {
  state = (state + 0x6d2b79f5) >>> 0
  let t = Math.imul(state ^ (state >>> 15), 1 | state)
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
  return ((t ^ (t >>> 14)) >>> 0) / 4294967296
}

const KIND = ts.SyntaxKind
const SWAPS = new Map([
  [KIND.LessThanToken, '<='],
  [KIND.LessThanEqualsToken, '<'],
  [KIND.GreaterThanToken, '>='],
  [KIND.GreaterThanEqualsToken, '>'],
  [KIND.EqualsEqualsEqualsToken, '!=='],
  [KIND.ExclamationEqualsEqualsToken, '==='],
  [KIND.AmpersandAmpersandToken, '||'],
  [KIND.BarBarToken, '&&'],
  [KIND.PlusToken, '-'],
  [KIND.MinusToken, '+'],
])

/** Every place of a source at which one change can be made. */
function places(file, text) {
  const found = []
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.ES2022, true)
  const visit = (node) => {
    if (ts.isTypeNode(node) || ts.isInterfaceDeclaration(node) || ts.isTypeAliasDeclaration(node)) return
    if (ts.isBinaryExpression(node) && SWAPS.has(node.operatorToken.kind)) {
      const token = node.operatorToken
      // Texts are joined, not subtracted.
      const joins =
        token.kind === KIND.PlusToken && [node.left, node.right].some((side) => /['"`]/.test(side.getText()))
      if (!joins) found.push({ from: token.getStart(), to: token.getEnd(), by: SWAPS.get(token.kind) })
    } else if (node.kind === KIND.TrueKeyword || node.kind === KIND.FalseKeyword)
      found.push({ from: node.getStart(), to: node.getEnd(), by: node.kind === KIND.TrueKeyword ? 'false' : 'true' })
    else if (ts.isPrefixUnaryExpression(node) && node.operator === KIND.ExclamationToken)
      found.push({ from: node.getStart(), to: node.operand.getStart(), by: '' })
    else if (ts.isReturnStatement(node) && node.expression && ts.isIdentifier(node.expression))
      found.push({ from: node.expression.getStart(), to: node.expression.getEnd(), by: 'undefined as never' })
    ts.forEachChild(node, visit)
  }
  visit(source)
  return found.map((place) => ({
    ...place,
    file,
    line: source.getLineAndCharacterOfPosition(place.from).line + 1,
    was: text.slice(place.from, place.to),
  }))
}

const copy = mkdtempSync(join(tmpdir(), 'jurybox-mutants-'))
for (const name of ['package.json', 'tsconfig.base.json', '.mocharc.json', 'scenario', 'packages/content', 'docs'])
  cpSync(join(root, name), join(copy, name), { recursive: true })
cpSync(join(root, 'packages/core'), join(copy, 'packages/core'), { recursive: true })
symlinkSync(join(root, 'node_modules'), join(copy, 'node_modules'))
const survivors = []
let killed = 0
try {
  for (const folder of folders) {
    const all = globSync(`packages/core/src/${folder}/**/*.ts`, { cwd: copy, absolute: true })
      .sort()
      .flatMap((file) => places(file, readFileSync(file, 'utf8')))
    const chosen = Array.from({ length: Math.min(count, all.length) }, () =>
      all.splice(Math.floor(random() * all.length), 1),
    ).flat()
    const tests = globSync(`packages/core/test/${folder}/**/*.test.ts`, { cwd: copy }).filter(
      (test) => !test.includes('/live/'),
    )
    for (const { file, from, to, by, line, was } of chosen) {
      const text = readFileSync(file, 'utf8')
      writeFileSync(file, text.slice(0, from) + by + text.slice(to))
      // Who never ends is noticed, too.
      const { status } = spawnSync(
        process.execPath,
        ['--import=tsx', 'node_modules/mocha/lib/cli/cli.js', '--bail', '--reporter', 'min', ...tests],
        { cwd: copy, timeout: limitMs, killSignal: 'SIGKILL', stdio: 'ignore' },
      )
      writeFileSync(file, text)
      const place = `${relative(copy, file)}:${line}`
      if (status === 0) survivors.push(`${place}: “${was}” as “${by}”`)
      else killed++
      console.log(`${status === 0 ? 'survived' : 'killed  '} ${place} “${was.trim()}” as “${by}”`)
    }
  }
} finally {
  rmSync(copy, { recursive: true, force: true })
}
const total = killed + survivors.length
console.log(`\n${killed} of ${total} noticed (${Math.round((100 * killed) / Math.max(1, total))} %)`)
if (survivors.length > 0) console.log(`Survived:\n${survivors.map((one) => `  ${one}`).join('\n')}`)
