import { FAMILIES } from '../../../model/index.ts'
import type { StageRule } from '../stage.ts'

/** The list that is applied to the interface by which packets come in, or go out. */
export const interfaceFilter: StageRule<'interface filter'> = (branch, { filters }, { direction }) =>
  filters.interfaceFilter(direction, branch)

/** A list that every packet meets, by its name. */
export const list: StageRule<'list'> = (branch, { filters }, { name }) =>
  branch.outInterface < 0 && / (?:OUTPUT|POSTROUTING|FORWARD)$/.test(name) && !branch.local
    ? [branch]
    : FAMILIES.flatMap((family) => filters.listStage(name, family, name, branch))
