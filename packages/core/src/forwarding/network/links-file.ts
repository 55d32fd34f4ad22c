import { parseDocument } from 'yaml'
import { z } from 'zod'
import {
  CoreError,
  firstLineOf,
  lineOfError,
  readLocatedYaml,
  schemaFault,
  type LocatedYaml,
} from '../../syntax/index.ts'

/** A file beside the devices of a snapshot that does not say what it should. */
export class CompanionFileError extends CoreError {
  constructor(file: string, line: number | undefined, reason: string) {
    super('companion-file', `${file}: ${reason}`, { file, ...(line !== undefined && { line }) })
  }
}

const endSchema = z.string().regex(/^[^:\s]+:\S+$/, 'expected DEVICE:PORT')

export const linksFileSchema = z.strictObject({
  /**
   * The interfaces by which packets leave to, and come from, the world outside; none: those whose gateway no device of
   * the snapshot has.
   */
  outside: z.array(endSchema).default([]),
  links: z
    .array(
      z.strictObject({
        /** The two ends. */
        between: z.tuple([endSchema, endSchema]),
        /** What protects it below the layers that devices tell of, and who says so. */
        protection: z
          .strictObject({
            by: z.string().min(1),
            algorithms: z.array(z.string()).default([]),
            attestedBy: z.string().min(1),
            on: z.iso.date(),
          })
          .optional(),
      }),
    )
    .default([]),
})
export type LinksFile = z.infer<typeof linksFileSchema>
export const NO_LINKS: LinksFile = { outside: [], links: [] }

/** Reads `links.yaml`. @throws CompanionFileError */
export function readLinksFile(file: { readonly path: string; readonly text: string }): LinksFile {
  return readBeside(file, linksFileSchema)
}

/**
 * The text of `links.yaml` with other ports that lead outside, `DEVICE:PORT` each; all else stays as people wrote it.
 * None: they are told by themselves.
 */
export function withOutside(text: string, ports: readonly string[]): string {
  const document = parseDocument(text.trim() === '' ? '{}' : text, { uniqueKeys: true })
  if (document.contents !== null && 'flow' in document.contents) document.contents.flow = false
  if (ports.length === 0) document.delete('outside')
  else document.set('outside', [...ports])
  const made = document.toString({ lineWidth: 0 })
  return made.trim() === '{}' ? 'links: []\n' : made
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
