import { deriveReference, type Feature } from '@jurybox/core/references'
import { analysisFor, type AnalysisTask } from '../analysis/analyses.ts'

export interface DeriveTask {
  readonly devices: readonly (AnalysisTask & { readonly name: string })[]
  readonly feature: Feature
  readonly dialect: string
  readonly share: number
}

/** What devices have in common for a feature; in a thread that keeps devices read. */
export function deriveTask({ devices, feature, dialect, share }: DeriveTask): ReturnType<typeof deriveReference> {
  const read = devices.flatMap(({ name, ...task }) => {
    const analysis = analysisFor(task)
    return analysis ? [{ name, analysis }] : []
  })
  return deriveReference(read, feature, dialect, share)
}
