import { maskLine, type Mask, type Syntax } from '../syntax/index.ts'

/**
 * A mark cannot be entered at a device. In commands a secret is a placeholder: the name of the value that has to be
 * supplied, and the number of its mark, by which the stating line is found.
 */
function withPlaceholders(command: string): string {
  return command.replace(/‹secret:([0-9a-f]+)›/g, (_, print: string, at: number) => {
    const words = command.slice(0, at).replaceAll(/["']/g, ' ').trim().split(/\s+/)
    return `<${words.findLast((word) => /^[a-z][\w-]*$/i.test(word)) ?? 'secret'} ${print}>`
  })
}

/** Commands as people see them, one block after the other. */
export function maskCommands(commands: readonly string[], dialect: Syntax, mask: Mask): string[] {
  let block: string | null = null
  return commands.map((command) => {
    if (!command.startsWith(' ')) block = command
    return withPlaceholders(maskLine(command, block, dialect, mask))
  })
}
