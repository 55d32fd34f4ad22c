// Runs every suite, as many side by side as there are processors, the longest first; what each printed comes when it
// has ended. Ends with the minutes of each and the totals on one line. Exits with 1 where anything failed.
import { execFileSync, spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { availableParallelism, tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))
const place = mkdtempSync(join(tmpdir(), 'jurybox-results-'))
const bin = (name) => join('node_modules', '.bin', name)

/** A check that is one test: it passes or it fails. */
const check = (name, seconds, command, args) => ({ name, seconds, env: {}, command, args, counts: false })

/** What starts servers runs on the compiled packages, as at people's: a worker is there in half the time. */
const COMPILED = { NODE_OPTIONS: '--conditions=compiled' }

/** @param seconds about how long it takes: the longest begins first */
const suite = (name, seconds, env, ...patterns) => ({
  name,
  seconds,
  env,
  command: process.execPath,
  args: [
    'node_modules/mocha/bin/mocha.js',
    '--reporter',
    './e2e/reporter.cjs',
    '--reporter-option',
    `out=${join(place, `${name}.json`)}`,
    ...patterns,
  ],
  counts: true,
})

const waiting = [
  check('lint', 25, bin('eslint'), ['.', '--max-warnings', '0']),
  check('format', 25, bin('prettier'), ['--check', '--log-level', 'warn', '.']),
  check('layers', 6, bin('depcruise'), [
    'packages',
    '--config',
    '.dependency-cruiser.cjs',
    '--include-only',
    '^packages/[a-z]+/src',
  ]),
  check('types', 75, bin('vue-tsc'), ['-b']),
  suite('core', 300, {}, 'packages/core/test/**/*.test.ts'),
  suite(
    'packages',
    250,
    {},
    'packages/{content,collector,simulator,cli,web}/test/**/*.test.ts',
    '--ignore',
    'packages/web/test/components/**',
  ),
  suite('components', 30, {}, 'packages/web/test/components/**/*.test.ts'),
  suite('server', 950, COMPILED, 'packages/server/test/**/*.test.ts'),
  check('attack', 70, process.execPath, [
    '--import',
    'tsx',
    'attack/run.ts',
    '--seconds',
    '20',
    '--rounds',
    '2',
    '--seed',
    '1',
  ]),
  suite('browser', 800, COMPILED, 'e2e/**/*.test.ts'),
].sort((a, b) => b.seconds - a.seconds)

const done = []

async function run(step) {
  const started = Date.now()
  const output = []
  const status = await new Promise((resolve) => {
    const child = spawn(step.command, step.args, { cwd: root, env: { ...process.env, ...step.env, FORCE_COLOR: '0' } })
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (data) => output.push(data))
    child.on('error', (error) => {
      output.push(Buffer.from(`${error.message}\n`))
      resolve(1)
    })
    child.on('close', (code) => resolve(code ?? 1))
  })
  const seconds = Math.round((Date.now() - started) / 1000)
  const text = Buffer.concat(output).toString('utf8')
  console.log(`\n== ${step.name}\n${text}== ${step.name}: ${status === 0 ? 'passed' : 'FAILED'} in ${seconds} s`)
  done.push({ name: step.name, seconds, ...counted(step, status === 0) })
}

/** How many tests passed and failed, and which were left out because a program is not installed. */
function counted({ name, counts }, ok) {
  if (!counts) return { passed: Number(ok), failed: Number(!ok), leftOut: [], slowest: [] }
  try {
    const { passes, failures, leftOut, slowest } = JSON.parse(readFileSync(join(place, `${name}.json`), 'utf8'))
    // A suite that ends badly without naming a failed test still failed.
    return { passed: passes, failed: failures + Number(!ok && failures === 0), leftOut, slowest }
  } catch {
    return { passed: 0, failed: 1, leftOut: [], slowest: [] }
  }
}

async function lane() {
  for (let step = waiting.shift(); step; step = waiting.shift()) await run(step)
}

const started = Date.now()
execFileSync(process.execPath, ['compile.mjs'], { cwd: root, stdio: 'inherit' })
await Promise.all(Array.from({ length: Math.max(1, availableParallelism()) }, lane))
rmSync(place, { recursive: true, force: true })

const minutes = (seconds) => `${(seconds / 60).toFixed(1)} min`
console.log('\nMinutes by suite:')
for (const { name, seconds } of done.sort((a, b) => b.seconds - a.seconds))
  console.log(`  ${name.padEnd(12)} ${minutes(seconds)}`)
console.log(`  ${'all'.padEnd(12)} ${minutes((Date.now() - started) / 1000)}`)
const slowest = done.flatMap((one) => one.slowest).sort(([a], [b]) => b - a)
console.log('\nSlowest tests, in seconds:')
for (const [milliseconds, name] of slowest.slice(0, 20))
  console.log(`  ${(milliseconds / 1000).toFixed(1).padStart(6)}  ${name}`)
const leftOut = done.flatMap((one) => one.leftOut)
if (leftOut.length > 0) console.log(`\nLeft out (${leftOut.length}):\n${leftOut.map((name) => `  ${name}`).join('\n')}`)
const sum = (key) => done.reduce((total, one) => total + one[key], 0)
console.log(`\n${sum('passed')} passed, ${sum('failed')} failed`)
process.exitCode = sum('failed') === 0 ? 0 : 1
