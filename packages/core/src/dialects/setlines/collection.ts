import { hierarchyCommands } from '../hierarchy/collection.ts'

export const SETLINES_COMMANDS = hierarchyCommands('setlines', 'show configuration as set lines')
