// Runs every suite, one after the other, and ends with the totals on one line. Exits with 1 where anything failed.
import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))
const place = mkdtempSync(join(tmpdir(), 'jurybox-results-'))
let passed = 0
let failed = 0

function step(name, command, args) {
  const started = Date.now()
  console.log(`\n== ${name}`)
  const { status } = spawnSync(command, args, {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, FORCE_COLOR: '0' },
  })
  console.log(`== ${name}: ${status === 0 ? 'passed' : 'FAILED'} in ${Math.round((Date.now() - started) / 1000)} s`)
  return status === 0
}

/** A check that is one test: it passes or it fails. */
function check(name, command, args) {
  if (step(name, command, args)) passed++
  else failed++
}

function suite(name, pattern) {
  const out = join(place, `${name}.json`)
  const ok = step(name, process.execPath, [
    'node_modules/mocha/bin/mocha.js',
    '--reporter',
    './e2e/reporter.cjs',
    '--reporter-option',
    `out=${out}`,
    pattern,
  ])
  try {
    const stats = JSON.parse(readFileSync(out, 'utf8'))
    passed += stats.passes
    failed += stats.failures
    // A suite that ends badly without naming a failed test still failed.
    if (!ok && stats.failures === 0) failed++
  } catch {
    failed++
  }
}

const bin = (name) => join('node_modules', '.bin', name)
check('lint', bin('eslint'), ['.', '--max-warnings', '0'])
check('format', bin('prettier'), ['--check', '--log-level', 'warn', '.'])
check('layers', bin('depcruise'), [
  'packages',
  '--config',
  '.dependency-cruiser.cjs',
  '--include-only',
  '^packages/[a-z]+/src',
])
for (const name of ['core', 'content', 'collector', 'simulator', 'cli', 'server'])
  check(`types: ${name}`, bin('tsc'), ['-p', `packages/${name}`])
check('types: web', bin('vue-tsc'), ['-p', 'packages/web', '--noEmit'])
check('types: tests', bin('tsc'), ['-p', 'tsconfig.json'])
suite('unit', 'packages/{core,content,collector,simulator,cli,web}/test/**/*.test.ts')
suite('server', 'packages/server/test/**/*.test.ts')
check('attack', process.execPath, [
  '--import',
  'tsx',
  'attack/run.ts',
  '--seconds',
  '20',
  '--rounds',
  '2',
  '--seed',
  '1',
])
suite('browser', 'e2e/**/*.test.ts')
rmSync(place, { recursive: true, force: true })

console.log(`\n${passed} passed, ${failed} failed`)
process.exitCode = failed === 0 ? 0 : 1
