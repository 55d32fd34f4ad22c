import type { z } from 'zod'
import { CoreError } from './core-error.ts'
import { firstLineOf, lineOfError, readLocatedYaml, schemaFault, type LocatedYaml } from './yaml.ts'

/** A file beside the devices of a snapshot that does not say what it should. */
export class CompanionFileError extends CoreError {
  constructor(file: string, line: number | undefined, reason: string) {
    super('companion-file', `${file}: ${reason}`, { file, ...(line !== undefined && { line }) })
  }
}

/** Reads a YAML file by its schema. @throws CompanionFileError with the path, the place in it and what was expected */
export function readBeside<S extends z.ZodType>(
  { path, text }: { readonly path: string; readonly text: string },
  schema: S,
): z.infer<S> {
  let located: LocatedYaml
  try {
    located = readLocatedYaml(text)
  } catch (error) {
    throw new CompanionFileError(path, lineOfError(error), `not valid YAML: ${firstLineOf(error)}`)
  }
  const parsed = schema.safeParse(located.data)
  if (!parsed.success) {
    const line = located.lineAt(parsed.error.issues[0]?.path ?? [])
    throw new CompanionFileError(path, line, schemaFault(parsed.error))
  }
  return parsed.data
}
