import type { Output } from './call.ts'

const output: Output = {
  stdout: (text) => void process.stdout.write(text),
  stderr: (text) => void process.stderr.write(text),
}
type Command = (args: readonly string[], output: Output) => number | Promise<number>
/** Each is loaded when it is called: one starts without what the others need. */
const COMMANDS: Readonly<Record<string, () => Promise<Command>>> = {
  audit: async () => (await import('./audit.ts')).auditCommand,
  compare: async () => (await import('./compare.ts')).compareCommand,
  reference: async () => (await import('./reference.ts')).referenceCommand,
  verify: async () => (await import('./verify.ts')).verifyCommand,
  read: async () => (await import('./read.ts')).readCommand,
  collect: async () => (await import('./collect.ts')).collectCommand,
  simulate: async () => (await import('./simulate.ts')).simulateCommand,
  traffic: async () => (await import('./traffic.ts')).trafficCommand,
  trace: async () => (await import('./traffic.ts')).traceCommand,
  reach: async () => (await import('./traffic.ts')).reachCommand,
  filters: async () => (await import('./traffic.ts')).filtersCommand,
  network: async () => (await import('./network.ts')).networkCommand,
  functions: async () => (await import('./network.ts')).functionsCommand,
  changes: async () => (await import('./network.ts')).changesCommand,
}

const [command = '', ...args] = process.argv.slice(2)
const load = Object.hasOwn(COMMANDS, command) ? COMMANDS[command] : undefined
if (load) process.exitCode = await (await load())(args, output)
else {
  const usages = await Promise.all([
    import('./audit.ts').then(({ USAGE }) => USAGE),
    import('./compare.ts').then(({ COMPARE_USAGE }) => COMPARE_USAGE),
    import('./reference.ts').then(({ REFERENCE_USAGE }) => REFERENCE_USAGE),
    import('./verify.ts').then(({ VERIFY_USAGE }) => VERIFY_USAGE),
    import('./read.ts').then(({ READ_USAGE }) => READ_USAGE),
    import('./collect.ts').then(({ COLLECT_USAGE }) => COLLECT_USAGE),
    import('./simulate.ts').then(({ SIMULATE_USAGE }) => SIMULATE_USAGE),
    import('./traffic-call.ts').then(({ TRAFFIC_USAGE }) => TRAFFIC_USAGE),
  ])
  output.stderr(`${usages.join('\n\n')}\n`)
  process.exitCode = 2
}
