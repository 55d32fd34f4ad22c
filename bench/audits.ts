/**
 * Audits on the server: a whole estate, the same again, and again with one device changed; as shares of the first.
 * Aims: again at most 2 %; one device changed at most 1 % and what that device costs alone.
 *   npm run bench:audits [devices]
 */
import { mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { prepare, readBenchmark, type SnapshotFile } from '@jurybox/core'
import { startServer } from '../packages/server/src/server.ts'

const count = Number(process.argv[2] ?? 1000)
const scenario = join(fileURLToPath(new URL('..', import.meta.url)), 'scenario')
const configs = readdirSync(scenario, { recursive: true, withFileTypes: true })
  .filter((entry) => entry.isFile() && entry.name === 'config.txt')
  .map((entry) => readFileSync(join(entry.parentPath, entry.name), 'utf8'))
  .filter((text) => /^hostname /m.test(text))
/** Every device is one of the demo's with a name and addresses of its own. */
const device = (i: number): string =>
  (configs[i % configs.length] ?? '')
    .replace(/^hostname .*$/m, `hostname d${i}`)
    .replace(
      /\b10\.(\d+)\.(\d+)\.(\d+)\b/g,
      (_, b: string, c: string, d: string) =>
        `10.${(Number(b) + i) % 250}.${(Number(c) + Math.floor(i / 250)) % 250}.${d}`,
    )
/**
 * One device with another line, or with other answers for the others: its first interface is renumbered and its links
 * have another MTU.
 */
const CHANGES = {
  line: (text: string): string => `${text}\nip http server\n`,
  answers: (text: string): string =>
    text
      .replace(/^ ip address .*$/gm, '$&\n mtu 1400')
      .replace(/^ ip address .*$/m, ' ip address 10.251.0.1 255.255.255.252'),
}
const files = (changed: keyof typeof CHANGES | null): SnapshotFile[] =>
  Array.from({ length: count }, (_, i) => ({
    path: `devices/d${i}/config.txt`,
    bytes: Buffer.from(i === 1 && changed ? CHANGES[changed](device(i)) : device(i)),
  }))

const folder = mkdtempSync(join(tmpdir(), 'jurybox-bench-'))
const { services, stop } = await startServer({ dataFolder: folder, port: 0, webFolder: folder, logLevel: 'error' })
try {
  const lead = await services.createUser({ name: 'lead', fullName: 'Lead', password: 'a long enough password' })
  const engagement = await services.createEngagement({ title: 'Bench', client: '' }, lead)
  const freeze = async (
    changed: keyof typeof CHANGES | null,
    takenAt: string,
    { id } = engagement,
    dropped = files(changed),
  ) => {
    const intake = await services.snapshots.importFolders([dropped], id, lead.id)
    return services.snapshots.freeze(intake, {
      title: takenAt,
      note: '',
      takenAt: new Date(takenAt),
      settled: [],
      userId: lead.id,
    })
  }
  const choice = await services.benchmarks.choice(engagement.id, 'network-hardening', undefined)
  const timed = async (
    snapshot: Awaited<ReturnType<typeof freeze>>,
    { id: within } = engagement,
  ): Promise<{ ms: number; message: string }> => {
    const started = performance.now()
    const { id } = await services.audits.start(within, lead.id, snapshot, [choice])
    for (;;) {
      const job = await services.jobs.find(id, within)
      if (job && job.state !== 'running')
        return { ms: performance.now() - started, message: `${job.state}: ${job.message}` }
      await new Promise((resolve) => setTimeout(resolve, 20))
    }
  }
  // A server that has run for a while: its workers have loaded what they run.
  const early = await services.createEngagement({ title: 'Early', client: '' }, lead)
  await timed(await freeze(null, '2026-10-01T00:00:00Z', early, files(null).slice(0, 40)), early)
  const whole = await freeze(null, '2026-11-01T00:00:00Z')
  const changed = await freeze('line', '2026-11-02T00:00:00Z')
  const renumbered = await freeze('answers', '2026-11-03T00:00:00Z')
  const first = await timed(whole)
  const show = (name: string, { ms, message }: { ms: number; message: string }): void =>
    console.log(
      `${name.padEnd(22)} ${(ms / 1000).toFixed(2).padStart(7)} s  ` +
        `${((ms / first.ms) * 100).toFixed(1).padStart(6)} %  ${message}`,
    )
  show('first', first)
  show('again', await timed(whole))
  show('one device changed', await timed(changed))
  show('as others see it', await timed(renumbered))
  const alone = await services.createEngagement({ title: 'Alone', client: '' }, lead)
  show(
    'that device alone',
    await timed(await freeze('line', '2026-11-02T00:00:00Z', alone, files('line').slice(1, 2)), alone),
  )
  // A rule that is being written: the first trial reads the devices, an edit asks them again.
  const edited = (domain: string): string =>
    `id: own\ntitle: Own\nversion: 1.0.0\nstatement: s\nprofiles: [{ id: base, title: All }]\nrules:\n ` +
    ' - { id: r, title: t, statement: s, topic: T, severity: low, profile: base, decide: [{ id: lines, ' +
    `when: { all: [{ some: { block: 'line vty ...', has: transport input ssh } }, { model: ` +
    `'system.services.http.enabled != true' }, 'ip domain name ${domain}'] }, outcome: pass, note: n ` +
    `}, { id: not, outcome: fail, note: n }] }\n`
  const trial = async (name: string, domain: string): Promise<void> => {
    const started = performance.now()
    const tried = await services.trial.answers(
      whole,
      edited(domain),
      prepare({ benchmark: readBenchmark(edited(domain)), profile: 'base', values: {} }).needs,
      null,
      null,
      AbortSignal.timeout(600_000),
    )
    show(name, { ms: performance.now() - started, message: `${tried.length} devices answer` })
  }
  await trial('a rule, first trial', 'one.example')
  await trial('the rule edited', 'two.example')
  await trial('edited again', 'three.example')
  console.log(`peak memory of the process, its workers within: ${Math.round(process.resourceUsage().maxRSS / 1024)} MB`)
} finally {
  await stop()
  rmSync(folder, { recursive: true, force: true })
}
