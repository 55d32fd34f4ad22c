import { LookupStage } from '../lookup.ts'
import type { StageRule } from '../stage.ts'

/** Where a way out is chosen. */
export const lookup: StageRule<'lookup'> = (branch, { run }) => new LookupStage(run).lookup(branch)
