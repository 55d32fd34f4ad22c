/**
 * How long the command takes for one file, beside a start of Node.js that does nothing: `npm run bench:start`. The
 * least of some runs, since other work on the machine only ever adds to it.
 */
import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

const RUNS = 7
const AIM = 500
const root = fileURLToPath(new URL('..', import.meta.url))
const folder = mkdtempSync(join(tmpdir(), 'start-'))
const file = join(folder, 'edge-1.cfg')
writeFileSync(file, 'hostname edge-1\nline vty 0 4\n transport input telnet\n')
execFileSync(process.execPath, ['compile.mjs'], { cwd: root })

/** @returns milliseconds */
function least(args: readonly string[]): number {
  const times = Array.from({ length: RUNS }, () => {
    const start = performance.now()
    const { status, stderr } = spawnSync(process.execPath, args, { cwd: root, encoding: 'utf8' })
    if (status !== 0 && status !== 1) throw new Error(stderr)
    return performance.now() - start
  })
  return Math.min(...times)
}

const cli = ['-C', 'compiled', 'packages/cli/build/main.js']
const nothing = least(['-e', '0'])
const commands = {
  'audit of one file': ['audit', file, '--benchmark', 'network-hardening', '--format', 'csv'],
  'read of one file': ['read', file],
}
console.log(`Node.js alone: ${nothing.toFixed(0)} ms`)
for (const [name, args] of Object.entries(commands)) {
  const time = least([...cli, ...args])
  console.log(`${name}: ${time.toFixed(0)} ms, ${(time / nothing).toFixed(1)} times that (aim: ${AIM} ms)`)
}
rmSync(folder, { recursive: true })
