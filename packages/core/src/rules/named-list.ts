import { forwardingRulesOf } from '../dialects/index.ts'
import { Diagrams, Headers, standaloneLists, type Admission, type ListSets, type ModelList } from '../headers/index.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import type { CitedRange } from './evidence.ts'
import type { JudgedDevice } from './judged.ts'
import { placesOf } from './model-fields.ts'

/** An access list that a condition names. */
export interface NamedList {
  readonly list: ModelList
  /** Of it in the model. */
  readonly path: string
  readonly sets: ListSets
}

/** Nodes of one question at most: a list beyond that is not decided. */
const MOST_NODES = 1 << 21
/** Lists of many devices share their diagrams; beyond so many nodes a new store is begun. */
const ENOUGH_NODES = 1 << 17
let shared = new Headers(new Diagrams(MOST_NODES))

const known = new WeakMap<JudgedDevice, ReadonlyMap<string, NamedList>>()

/** Looked up by family and name; undefined where the device defines none of that name. */
export function listNamed({ device }: EvaluationContext, name: string, family: string): NamedList | undefined {
  let lists = known.get(device)
  if (!lists) known.set(device, (lists = listsOf(device)))
  return lists.get(`${family} ${name}`)
}

function listsOf(device: JudgedDevice): ReadonlyMap<string, NamedList> {
  const { model } = device.modelled()
  if (shared.diagrams.size > ENOUGH_NODES) shared = new Headers(new Diagrams(MOST_NODES))
  const sets = standaloneLists(shared, model.accessLists, forwardingRulesOf(model.dialect).laterFragments)
  return new Map(
    model.accessLists.map(({ name, family }, at): [string, NamedList] => [
      `${family} ${name}`,
      { list: sets.list(name, family) as ModelList, path: `accessLists[${at}]`, sets },
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
