/** Time and memory at each limit of what is read, each in a process of its own. npm run bench:limits */
import { spawnSync } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { readSnapshot, type SnapshotFile } from '@jurybox/core'
import { safeFileName } from '@jurybox/core/snapshot'
import { READING_LIMITS, YAML_LIMITS, readYaml } from '@jurybox/core/syntax'
import { zipSync } from 'fflate'

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)
const file = (path: string, text: string): SnapshotFile[] => [{ path, bytes: bytes(text) }]
const listing = (length: number): string =>
  `hostname big\n${Array.from({ length: Math.ceil(length / 52) }, (_, i) => `interface Vlan${i % 4000}\n ip address 10.1.${i % 250}.1 255.255.255.0\n`).join('')}`.slice(
    0,
    length,
  )

const CASES: Readonly<Record<string, () => unknown>> = {
  [`braces ${READING_LIMITS.depth} deep`]: () =>
    readSnapshot(
      file(
        'a.cfg',
        `system {\n host-name ` +
          `a;\n}\n${'x {\n'.repeat(READING_LIMITS.depth - 1)}${'}\n'.repeat(READING_LIMITS.depth - 1)}`,
      ),
    ),
  [`${READING_LIMITS.statements.toLocaleString('en')} statements`]: () =>
    readSnapshot(file('a.cfg', `hostname a\n${'ip http server\n'.repeat(READING_LIMITS.statements - 10)}`)),
  'one line of 20 million characters': () =>
    readSnapshot(file('a.cfg', `hostname a\ndescription ${'x'.repeat(READING_LIMITS.lineCharacters - 100)}\n`)),
  'a listing of 50 MB': () => readSnapshot(file('a.cfg', listing(50 * 1024 * 1024))),
  'a zip that unpacks to 50 MB': () =>
    readSnapshot([{ path: 'a.zip', bytes: zipSync({ 'a.cfg': bytes(listing(50 * 1024 * 1024)) }) }]),
  '10,000 files': () =>
    readSnapshot(
      Array.from({ length: 10_000 }, (_, i) => ({
        path: `devices/${safeFileName(`d${i}`)}/config.txt`,
        bytes: bytes(`hostname d${i}\nip http server\n`),
      })),
    ),
  [`a YAML text of ${YAML_LIMITS.characters.toLocaleString('en')} characters`]: () =>
    readYaml(
      Array.from({ length: YAML_LIMITS.characters / 11 }, (_, i) => `k${String(i).padStart(6, '0')}: 1`).join('\n'),
    ),
}

const [, , chosen] = process.argv
if (chosen === undefined) {
  for (const name of Object.keys(CASES))
    spawnSync(
      process.execPath,
      ['--max-old-space-size=8192', '--import', 'tsx', fileURLToPath(import.meta.url), name],
      { stdio: 'inherit' },
    )
} else {
  const began = performance.now()
  let said = ''
  try {
    const made = CASES[chosen]?.()
    if (
      typeof made === 'object' &&
      made !== null &&
      'refused' in made &&
      Array.isArray(made.refused) &&
      made.refused.length > 0
    )
      said = ` (refused: ${JSON.stringify(made.refused[0])})`
  } catch (error) {
    said = ` (${String(error)})`
  }
  console.log(
    `${chosen.padEnd(44)} ${((performance.now() - began) / 1000).toFixed(1)} s   ` +
      `${Math.round(process.resourceUsage().maxRSS / 1024)} MB${said}`,
  )
}
