/** Edits as commands with their rollback, and what a device holds after them. */
export { applyCommands, planFor, type Plan } from './plan.ts'
export { maskCommands } from './masked-commands.ts'
