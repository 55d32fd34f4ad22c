import { randomBytes } from 'node:crypto'
import { writeFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import { EffectiveConfig, maskWithKey, readSnapshot } from '@jurybox/core'
import { modelOfDevice } from '@jurybox/core/analysis'
import { judgedRecord, linesOf, stateOfDevice } from '@jurybox/core/analysis'
import type { ReadRecord } from '@jurybox/core/state'
import { UsageError, type Output } from './call.ts'
import { filesAt } from './files.ts'

export const READ_USAGE = `Usage: jurybox read PATH… [--format json] [--unread [--harmless]] [--out FILE]

Prints the device models of configurations as JSON, with the lines that every value is from; with --unread
the unparsed lines, one a line, and the share of each file; with --harmless besides it the lines that were
passed over because no answer rests on them, each with the reason.
Exit status: 0 something was read; 2 bad usage or nothing readable.`

/** Reads configurations into device models. @returns the exit status */
export function readCommand(args: readonly string[], output: Output): number {
  try {
    const { values, positionals } = parsed(args)
    if (positionals.length === 0) throw new UsageError(`name at least one file or folder\n${READ_USAGE}`)
    if (values.format !== 'json') throw new UsageError(`unknown format "${values.format}" (expected json)`)
    const { files, refused } = filesAt(positionals)
    const snapshot = readSnapshot(files)
    for (const { path, reason } of [...refused, ...snapshot.refused]) output.stderr(`refused: ${path}: ${reason}\n`)
    if (snapshot.devices.length === 0)
      throw new UsageError('Nothing readable: no file was read as a device configuration.')
    const mask = maskWithKey(randomBytes(32))
    const devices = snapshot.devices.flatMap(({ name, dialect, records }) => {
      const read = records.map(({ id, kind, tree, text }): ReadRecord =>
        tree ? { id, kind, tree } : { id, kind, tree, text },
      )
      const judged = judgedRecord(read)
      if (!judged) return []
      const { model, origins, unread, harmless, faults } = modelOfDevice(
        EffectiveConfig.of(judged.tree, dialect),
        judged,
        read,
        mask,
      )
      return [
        {
          name,
          path: judged.id,
          dialect: dialect.id,
          confidence: records.find(({ id }) => id === judged.id)?.confidence ?? null,
          lines: linesOf(
            records.map((record) => ({
              kind: record.kind,
              lineCount: record.tree?.lines.length ?? record.text.split('\n').length,
              unread: [],
            })),
          ).lines,
          faults,
          unread,
          ...(values.harmless ? { harmless } : {}),
          model,
          origins: Object.fromEntries(origins),
          state: stateOfDevice(read).state,
        },
      ]
    })
    const text = values.unread
      ? devices
          .map(({ path, lines, unread, harmless }) =>
            [
              `${path}: ${unread.length} of ${lines} lines unparsed ` +
                `(${((100 * unread.length) / Math.max(1, lines)).toFixed(1)} %)`,
              ...unread.map(
                ({ record, line, text: said, block }) =>
                  `${record}:${line}: ${block === null ? '' : `${block} › `}${said}`,
              ),
              ...(harmless ?? []).map(
                ({ record, line, text: said, block, why }) =>
                  `${record}:${line}: ${block === null ? '' : `${block} › `}${said}  (harmless: ${why})`,
              ),
            ].join('\n'),
          )
          .join('\n')
      : JSON.stringify({ schema: 1, devices }, null, 2)
    if (values.out === undefined) output.stdout(`${text}\n`)
    else writeFileSync(values.out, `${text}\n`)
    return 0
  } catch (error) {
    if (!(error instanceof UsageError)) throw error
    output.stderr(`jurybox read: ${error.message}\n`)
    return 2
  }
}

function parsed(args: readonly string[]) {
  try {
    return parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        format: { type: 'string', default: 'json' },
        unread: { type: 'boolean', default: false },
        harmless: { type: 'boolean', default: false },
        out: { type: 'string' },
      },
    })
  } catch (error) {
    throw new UsageError(`${error instanceof Error ? error.message : String(error)}\n${READ_USAGE}`)
  }
}
