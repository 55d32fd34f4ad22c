/**
 * Attacks a server of its own, with a database of its own, and the readers of the core; prints what was tried and what
 * did not hold, and exits with 1 where anything did not. npm run attack -- [--seconds N] [--rounds N] [--seed N]
 */
import { fileURLToPath } from 'node:url'
import { parseArgs } from 'node:util'
import { CONFIG, makeWorld } from '../packages/server/test/world.ts'
import { knownFaults } from './faults.ts'
import { randomFrom } from './hostile.ts'
import { fuzzReaders } from './readers.ts'
import { AttackReport } from './report.ts'
import { crossEngagements, fuzzRoutes } from './routes.ts'

const { values } = parseArgs({
  options: {
    seconds: { type: 'string', default: '300' },
    rounds: { type: 'string', default: '20' },
    seed: { type: 'string', default: String(Date.now() % 1_000_000) },
  },
})
const seed = Number(values.seed)
console.log(`seed ${seed} (the same one tries the same again)`)
/** None stands in anything that ships. */
const SECRETS = ['zq-oystercatcher', 'zq-turnstone', 'zq-kestrel-on-the-mast']
const SECRET_CONFIG = CONFIG.replace('sparrowhawk', 'zq-oystercatcher')
const report = new AttackReport()
const world = await makeWorld()
try {
  const lead = await world.client('lead')
  const { json } = await lead.freeze(world.engagement, {
    'core.cfg': SECRET_CONFIG,
    'edge.cfg': SECRET_CONFIG.replace('core', 'edge'),
  })
  await lead.audit(world.engagement, json.id)
  await lead.post(`/engagements/${world.engagement}/credentials`, {
    title: 'C',
    user: 'u',
    password: 'zq-kestrel-on-the-mast',
  })
  await knownFaults(report, world)
  await crossEngagements(report, world, SECRETS)
  await fuzzRoutes(report, world, randomFrom(seed), Number(values.rounds), SECRETS)
} finally {
  await world.end()
}
await fuzzReaders(
  report,
  fileURLToPath(new URL('../scenario/2026-11-16', import.meta.url)),
  randomFrom(seed + 1),
  Number(values.seconds),
)
console.log(`\n${report.tried} tried, ${report.tried - report.broken} held, ${report.broken} did not hold`)
process.exitCode = report.broken === 0 ? 0 : 1
