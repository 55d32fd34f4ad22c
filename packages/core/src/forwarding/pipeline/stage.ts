import type { Stage } from '../../dialects/index.ts'
import type { Tunnels } from '../engine/tunnels.ts'
import type { ListFilters } from './list-filters.ts'
import type { PassageRun } from './passage-run.ts'
import type { Branch } from './branch.ts'
import type { AddressTranslation } from './translations/index.ts'
import type { ZonePolicies } from './zones/zone-policies.ts'

/** What a stage of a device has at hand. */
export interface PassageParts {
  readonly run: PassageRun
  readonly zones: ZonePolicies
  readonly translation: AddressTranslation
  readonly filters: ListFilters
  readonly tunnels: Tunnels
}

type Named<Name extends Stage['stage']> = Extract<Stage, { readonly stage: Name }>

/** What a stage does with packets: it ends some of them, and gives back what goes on, perhaps in several ways. */
export type StageRule<Name extends Stage['stage']> = (
  branch: Branch,
  passage: PassageParts,
  stage: Named<Name>,
) => Branch[]
