/** Fields of the state that expressions name: the lines that state them. */
import { originOf } from '../model/index.ts'
import type { CitedRange } from './evidence.ts'
import type { JudgedDevice } from './judged.ts'

/** The lines that a part of the state is from; of a list, those of its first entries. */
export function placesOfState(device: JudgedDevice, path: string): CitedRange[] {
  const { origins } = device.stated()
  const own = [...origins].filter(([at]) => at === path || at.startsWith(`${path}[`)).slice(0, MOST)
  const found = own.length > 0 ? own.map(([, origin]) => origin) : [originOf(origins, path)]
  return found.flatMap((origin) =>
    origin?.kind === 'line'
      ? origin.lines.map(({ from, to }): CitedRange => ({ record: origin.record, from, to, absent: false }))
      : [],
  )
}

const MOST = 20
