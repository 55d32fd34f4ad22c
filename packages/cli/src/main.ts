import { auditCommand, USAGE } from './audit.ts'
import type { Output } from './call.ts'
import { COLLECT_USAGE, collectCommand } from './collect.ts'
import { READ_USAGE, readCommand } from './read.ts'
import { SIMULATE_USAGE, simulateCommand } from './simulate.ts'
import { changesCommand, functionsCommand, networkCommand } from './network.ts'
import { TRAFFIC_USAGE } from './traffic-call.ts'
import { filtersCommand, reachCommand, traceCommand, trafficCommand } from './traffic.ts'

const output: Output = {
  stdout: (text) => void process.stdout.write(text),
  stderr: (text) => void process.stderr.write(text),
}
const COMMANDS: Readonly<Record<string, (args: readonly string[], output: Output) => number | Promise<number>>> = {
  audit: auditCommand,
  read: readCommand,
  collect: collectCommand,
  simulate: simulateCommand,
  traffic: trafficCommand,
  trace: traceCommand,
  reach: reachCommand,
  filters: filtersCommand,
  network: networkCommand,
  functions: functionsCommand,
  changes: changesCommand,
}

const [command = '', ...args] = process.argv.slice(2)
const run = COMMANDS[command]
if (run) process.exitCode = await run(args, output)
else {
  output.stderr(`${[USAGE, READ_USAGE, COLLECT_USAGE, SIMULATE_USAGE, TRAFFIC_USAGE].join('\n\n')}\n`)
  process.exitCode = 2
}
