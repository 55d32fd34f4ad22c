import { safeFileName } from '@jurybox/core/snapshot'
import type { Response } from 'express'

/** Sends a body that the browser keeps as a file. */
export function download(response: Response, name: string, type: string, body: string | Buffer): void {
  response.setHeader('Content-Disposition', `attachment; filename="${safeFileName(name)}"`)
  response.type(type).send(body)
}
