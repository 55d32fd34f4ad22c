import { digestOf } from '@jurybox/core/estate'
import { compileScope } from '@jurybox/core/rules'
import { analysisFor, type AnalysisTask } from '../analysis/analyses.ts'

/** The device as JSON; empty where no record of it can be parsed. Runs in a worker thread. */
export function digestTask(task: AnalysisTask): Uint8Array {
  const analysis = analysisFor(task)
  const read = analysis && digestOf(analysis)
  return read ? new TextEncoder().encode(JSON.stringify(read)) : new Uint8Array()
}

/** Filters that read the device model, put to one device. */
export interface FilterTask extends AnalysisTask {
  readonly filters: readonly string[]
  /** What a filter knows of the device besides its model. */
  readonly names: Readonly<Record<string, unknown>>
}

export type FilterAnswer = { readonly inside: boolean | 'unknown'; readonly why: string | null }

export function filterTask({ filters, names, ...task }: FilterTask): FilterAnswer[] {
  const { modelled, state } = analysisFor(task) ?? {}
  if (!modelled) return filters.map(() => ({ inside: 'unknown', why: 'no record of it can be parsed' }))
  const known = { ...modelled.model, state: state?.state, ...names }
  return filters.map((filter) => {
    const { inside, why, term } = compileScope(filter)(known)
    return { inside, why: inside === 'unknown' ? (why ?? term) : null }
  })
}
