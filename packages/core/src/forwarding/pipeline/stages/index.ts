/** The stages of a device, one file each: what each does with the packets that come to it. */
import type { Stage } from '../../../dialects/index.ts'
import type { Branch } from '../branch.ts'
import type { PassageParts, StageRule } from '../stage.ts'
import { list, interfaceFilter } from './lists.ts'
import { lookup } from './lookup.ts'
import { management } from './management.ts'
import { protection } from './protection.ts'
import { reversePath } from './reverse-path.ts'
import { translation } from './translation.ts'
import { unwrapping } from './unwrapping.ts'
import { zonePolicy } from './zone-policy.ts'

const STAGES: { readonly [Name in Stage['stage']]: StageRule<Name> } = {
  'interface filter': interfaceFilter,
  list,
  'reverse path': reversePath,
  translation,
  lookup,
  'zone policy': zonePolicy,
  unwrapping,
  protection,
  management,
}

/** What goes on of the packets that come to a stage. */
export function throughStage(stage: Stage, branch: Branch, passage: PassageParts): Branch[] {
  return (STAGES[stage.stage] as StageRule<typeof stage.stage>)(branch, passage, stage)
}
