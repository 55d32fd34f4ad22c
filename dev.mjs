// `npm run dev [-- demo]`: the server, restarted when a source changes, and the interface, replaced in the page as it
// is saved. Without “demo” the data stay in .data/dev from run to run.
import { spawn } from 'node:child_process'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('.', import.meta.url))
const mode = process.argv[2] === 'demo' ? 'demo' : 'start'
const env = {
  JURYBOX_DATA: `${root}.data/dev`,
  // Responses that do not fit the contract are errors here, as in the tests.
  JURYBOX_CHECK_RESPONSES: '1',
  ...process.env,
  PATH: `${process.env.PATH}:/usr/sbin`,
}
const run = (command, args, cwd) => spawn(command, args, { cwd, env, stdio: 'inherit' })
const children = [
  run(
    process.execPath,
    ['--watch-path=packages/server/src', '--watch-path=packages/core/src', '--watch-path=packages/api/src']
      .concat(['--watch-path=packages/content', '--watch-preserve-output', '--import', 'tsx'])
      .concat(['packages/server/src/main.ts', mode]),
    root,
  ),
  run(`${root}node_modules/.bin/vite`, ['--host', '127.0.0.1'], `${root}packages/web`),
]
const stop = () => children.forEach((child) => child.kill('SIGTERM'))
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, stop)
for (const child of children) child.on('exit', stop)
