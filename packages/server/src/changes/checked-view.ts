import type { CheckedDeviceView } from '@jurybox/api/checks'
import type { CheckResult } from '@jurybox/core/checks'
import type { CitedLines } from '@jurybox/core/compare'
import type { EstateDevice } from '../estate/service.ts'
import type { CheckShelf, CheckedDevice } from './checks.ts'

/** The results of a device as pages show them. */
export function checkedView({ before, device, results }: CheckedDevice, { checks }: CheckShelf): CheckedDeviceView {
  const byId = new Map(checks.map((check) => [check.id, check]))
  return {
    device: device && { id: device.id, name: device.name },
    results: results.map((result) => {
      const { title, topic } = byId.get(result.check) ?? { title: result.check, topic: '' }
      return {
        ...result,
        title,
        topic,
        failing: result.failing.map((row) => ({ ...row, a: linesIn(before, row.a), b: linesIn(device, row.b) })),
        doubt: doubtOf(result),
      }
    }),
  }
}

function doubtOf({ doubt }: CheckResult): CheckedDeviceView['results'][number]['doubt'] {
  return doubt && { code: doubt.code, side: doubt.side }
}

function linesIn(device: EstateDevice | null, lines: readonly CitedLines[]) {
  return lines.flatMap(({ record, from, to }) => {
    const id = device?.records[Number(record)]?.id
    return id === undefined ? [] : [{ record: id, from, to }]
  })
}
