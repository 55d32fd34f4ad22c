import type { AccessList } from '../model/index.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import { placeOf, type CitedRange } from './evidence.ts'
import type { JudgedDevice } from './judged.ts'

export function listNamed(context: EvaluationContext, name: string, family: 'ipv4' | 'ipv6'): AccessList | undefined {
  return context.device.accessLists().get(`${family} ${name}`)
}

export function linesOfList(device: JudgedDevice, list: AccessList): CitedRange[] {
  return list.nodes.map((node) => placeOf(device.record, node))
}
