/** Configurations and outputs, mutated: no reader throws, hangs, or lets a secret through. */
import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { EffectiveConfig, MaskedLines, dialects, maskWithKey, readSnapshot } from '@jurybox/core'
import { modelOfDevice } from '@jurybox/core/analysis'
import { readRecord } from '@jurybox/core/snapshot'
import { judgedRecord, stateOfDevice } from '@jurybox/core/analysis'
import type { ReadRecord } from '@jurybox/core/state'
import { oneOf, type Random } from './hostile.ts'
import type { AttackReport } from './report.ts'

/** One text of usual size takes milliseconds. */
const LONGEST_MS = 5_000
const mask = maskWithKey(new Uint8Array(32).fill(3))

interface Seed {
  readonly path: string
  readonly dialect: string
  readonly kind: string
  readonly text: string
}

/** What opens, closes or ends something in one dialect or another. */
const SIGNS = [...('{}"' + "';[]"), '\0', '\\', '<![CDATA[', '-----BEGIN X-----', '--More--', '!', '#', 'no']

export function seedsIn(folder: string): Seed[] {
  const devices = join(folder, 'devices')
  return readdirSync(devices).flatMap((name) =>
    readdirSync(join(devices, name), { recursive: true, encoding: 'utf8' })
      .filter((file) => /\.(?:txt|json)$/.test(file))
      .map((file) => ({
        path: `devices/${name}/${file}`,
        dialect: '',
        kind: file.replace(/\.\w+$/, ''),
        text: readFileSync(join(devices, name, file), 'utf8'),
      })),
  )
}

function mutated(text: string, others: readonly Seed[], random: Random): string {
  const lines = text.split('\n')
  const at = (): number => Math.floor(random() * lines.length)
  for (let n = 1 + Math.floor(random() * 6); n > 0; n--) {
    const i = at()
    switch (Math.floor(random() * 9)) {
      case 0:
        lines.splice(i, 1 + Math.floor(random() * 5))
        break
      case 1:
        lines.splice(i, 0, ...Array.from({ length: 1 + Math.floor(random() * 40) }, () => lines[at()] ?? ''))
        break
      case 2:
        lines[i] = `${' '.repeat(Math.floor(random() * 12))}${lines[i] ?? ''}`
        break
      case 3:
        lines[i] = (lines[i] ?? '')
          .split(' ')
          .filter(() => random() > 0.3)
          .join(' ')
        break
      case 4:
        lines[i] = `${lines[i] ?? ''} ${oneOf(random, SIGNS)}`
        break
      case 5:
        lines[i] = (lines[i] ?? '').repeat(1 + Math.floor(random() * 60))
        break
      case 6:
        lines.splice(i, 0, ...oneOf(random, others).text.split('\n').slice(0, 30))
        break
      case 7:
        lines[i] = String.fromCharCode(...Array.from({ length: 40 }, () => Math.floor(random() * 0x400)))
        break
      default:
        lines.length = Math.max(1, i)
    }
  }
  return lines.join('\n')
}

export async function fuzzReaders(
  report: AttackReport,
  folder: string,
  random: Random,
  seconds: number,
): Promise<void> {
  const seeds = seedsIn(folder)
  await report.part('mutated configurations and outputs', async (tried) => {
    const until = Date.now() + seconds * 1000
    while (Date.now() < until) {
      const seed = oneOf(random, seeds)
      const text = mutated(seed.text, seeds, random)
      const began = Date.now()
      let why: string | null = null
      try {
        readEverything(seed, text)
      } catch (error) {
        why = error instanceof Error ? (error.stack ?? error.message).slice(0, 300) : String(error)
      }
      const ms = Date.now() - began
      if (why === null && ms > LONGEST_MS) why = `took ${ms} ms`
      tried(`${seed.path} (${text.length} characters)`, why)
    }
  })
}

function readEverything(seed: Seed, text: string): void {
  const { devices } = readSnapshot([{ path: seed.path, bytes: new TextEncoder().encode(text) }])
  for (const { records, dialect } of devices) {
    const read: ReadRecord[] = records.map(({ id, kind, tree, text: held }) =>
      tree ? { id, kind, tree } : { id, kind, tree: null, text: held },
    )
    const judged = judgedRecord(read)
    if (judged) modelOfDevice(EffectiveConfig.of(judged.tree, dialect), judged, read, mask)
    stateOfDevice(read)
  }
  if (seed.kind.startsWith('state/')) stateOfDevice([{ id: 'r', kind: seed.kind, tree: null, text }])
  else for (const dialect of dialects) new MaskedLines(readRecord(text, dialect.id), dialect, mask).all()
}
