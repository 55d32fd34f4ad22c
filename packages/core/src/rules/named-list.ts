import { forwardingRulesOf } from '../dialects/index.ts'
import { standaloneLists, type Admission, type StandaloneList } from '../headers/index.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import type { CitedRange } from './evidence.ts'
import type { JudgedDevice } from './judged.ts'
import { memoOf } from './memo.ts'
import { placesOf } from './model-fields.ts'
import { sharedHeaders } from './shared-headers.ts'

/** An access list that a condition names. */
export interface NamedList {
  readonly list: StandaloneList
  /** Of it in the model. */
  readonly path: string
}

/** Looked up by family and name; undefined where the device defines none of that name. */
export function listNamed({ device }: EvaluationContext, name: string, family: string): NamedList | undefined {
  return memoOf(device, listsOf, () => listsOf(device)).get(`${family} ${name}`)
}

function listsOf(device: JudgedDevice): ReadonlyMap<string, NamedList> {
  const { model } = device.modelled()
  const lists = standaloneLists(sharedHeaders(), model.accessLists, forwardingRulesOf(model.dialect).laterFragments)
  return new Map(
    lists.map((list, at): [string, NamedList] => [
      `${list.list.family} ${list.list.name}`,
      { list, path: `accessLists[${at}]` },
    ]),
  )
}

/** The lines that define a list. */
export function linesOfList(device: JudgedDevice, { path }: NamedList): CitedRange[] {
  return placesOf(device, path)
}

/** The line by which a list lets packets in; those of the list where no entry does so by itself. */
export function linesOfAdmission(device: JudgedDevice, named: NamedList, admission: Admission): CitedRange[] {
  const by = admission.by()
  if (by === null) return linesOfList(device, named)
  const { name, family } = by.list
  const at = device.modelled().model.accessLists.findIndex((one) => one.name === name && one.family === family)
  return placesOf(device, `accessLists[${at}].entries[${by.entry}]`)
}
