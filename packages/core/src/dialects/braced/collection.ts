import { hierarchyCommands } from '../hierarchy/collection.ts'

export const BRACED_COMMANDS = hierarchyCommands('braced', 'show configuration')
