import type { Response } from 'express'

/** Sends a body that the browser keeps as a file. @param name of letters, digits, dots and dashes */
export function download(response: Response, name: string, type: string, body: string | Buffer): void {
  response.setHeader('Content-Disposition', `attachment; filename="${name}"`)
  response.type(type).send(body)
}
