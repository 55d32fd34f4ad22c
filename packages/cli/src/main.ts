import { auditCommand, USAGE } from './audit.ts'

const [command, ...args] = process.argv.slice(2)
if (command === 'audit') {
  process.exitCode = auditCommand(args, { stdout: (text) => void process.stdout.write(text), stderr: (text) => void process.stderr.write(text) })
} else {
  process.stderr.write(`${USAGE}\n`)
  process.exitCode = 2
}
