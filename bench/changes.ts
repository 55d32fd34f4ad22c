/**
 * The comparison of two snapshots on the server, as *Changes* opens it: the first time, and again. Aim: 500 devices
 * again in less than 2 s.
 *   npm run bench:changes [devices]
 */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { SnapshotFile } from '@jurybox/core'
import { startServer } from '../packages/server/src/server.ts'
import { generateDevice } from './generate.ts'

const count = Number(process.argv[2] ?? 500)
const changed = (text: string): string => text.replaceAll(' description Desk', ' mtu 9000\n description Desk')
/** @param every how many devices there are to one that changed; 0: none did */
const files = (every: number): SnapshotFile[] =>
  Array.from({ length: count }, (_, i) => {
    const text = generateDevice(i)
    return {
      path: `devices/bench-${i}/config.txt`,
      bytes: Buffer.from(every > 0 && i % every === 0 ? changed(text) : text),
    }
  })

const folder = mkdtempSync(join(tmpdir(), 'jurybox-bench-'))
const { services, stop } = await startServer({ dataFolder: folder, port: 0, webFolder: folder, logLevel: 'error' })
try {
  const lead = await services.createUser({ name: 'lead', fullName: 'Lead', password: 'a long enough password' })
  const engagement = await services.createEngagement({ title: 'Bench', client: '' }, lead)
  const freeze = async (dropped: SnapshotFile[], takenAt: string) => {
    const intake = await services.snapshots.importFolders([dropped], engagement.id, lead.id)
    const at = { title: takenAt, note: '', takenAt: new Date(takenAt), settled: [], userId: lead.id }
    return services.snapshots.freeze(intake, at)
  }
  const a = await freeze(files(0), '2026-11-01T10:00:00Z')
  const snapshots = [
    { title: '10 devices changed', b: await freeze(files(Math.ceil(count / 10)), '2026-11-02T10:00:00Z') },
    { title: 'all devices changed', b: await freeze(files(1), '2026-11-03T10:00:00Z') },
  ]
  for (const { title, b } of snapshots)
    for (const turn of ['first', 'again', 'again']) {
      const began = performance.now()
      const changes = await services.changes.between(a, b, 600_000)
      const differ = changes.filter(({ standing }) => standing === 'changed').length
      console.log(`${title}, ${turn}`.padEnd(40), `${Math.round(performance.now() - began)} ms, ${differ} of ${count}`)
    }
} finally {
  await stop()
  rmSync(folder, { recursive: true, force: true })
}
