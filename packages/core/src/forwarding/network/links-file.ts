import { parseDocument } from 'yaml'
import { z } from 'zod'
import { readBeside } from '../../syntax/index.ts'

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
