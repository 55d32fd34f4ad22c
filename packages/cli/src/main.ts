import { auditCommand, USAGE } from './audit.ts'
import type { Output } from './call.ts'
import { READ_USAGE, readCommand } from './read.ts'

const output: Output = { stdout: (text) => void process.stdout.write(text), stderr: (text) => void process.stderr.write(text) }
const COMMANDS: Readonly<Record<string, (args: readonly string[], output: Output) => number>> = { audit: auditCommand, read: readCommand }

const [command = '', ...args] = process.argv.slice(2)
const run = COMMANDS[command]
if (run) process.exitCode = run(args, output)
else {
  output.stderr(`${USAGE}\n\n${READ_USAGE}\n`)
  process.exitCode = 2
}
