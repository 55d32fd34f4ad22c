import type { Request } from 'express'
import { Problem } from './problem.ts'

/** The one file that was sent. @throws Problem where there is none */
export function oneFile(request: Request): Express.Multer.File {
  const [file] = (request.files ?? []) as Express.Multer.File[]
  if (!file) throw new Problem(400, 'Expected one file, got none.')
  return file
}
