import type { Request, Response } from 'express'
import type { z } from 'zod'
import type { Permission, Role } from '../auth/roles.ts'
import type { Session, User } from '../db/entities.ts'
import type { Services } from '../services.ts'

/**
 * Who may call it: everyone, signed-in users, administrators of the installation, or members of the engagement in the
 * path with a permission.
 */
export type Access = 'everyone' | 'signed-in' | 'administrator' | Permission

export interface Caller {
  readonly user: User
  readonly session: Session
  readonly token: string
}

export interface Context<Body, Query> {
  readonly services: Services
  readonly request: Request
  readonly response: Response
  /** Present unless the route is open to everyone. */
  readonly caller: Caller
  /** The engagement in the path and the caller's role in it, where the route asks for a permission. */
  readonly engagementId: number
  readonly role: Role
  readonly params: Readonly<Record<string, string>>
  readonly body: Body
  readonly query: Query
  /** Aborted when the client no longer waits. */
  readonly gone: AbortSignal
}

export interface Route<Body = unknown, Query = unknown> {
  readonly method: 'get' | 'post' | 'put' | 'delete'
  /** Below /api, in Express's form. */
  readonly path: string
  readonly access: Access
  readonly summary: string
  readonly body?: z.ZodType<Body>
  readonly query?: z.ZodType<Query>
  /** Files in a multipart form. */
  readonly upload?: true
  /** Its body may be larger than 64 kB, and is taken apart by a worker. */
  readonly large?: true
  /** Only for users who confirmed their identity within the last quarter of an hour. */
  readonly fresh?: true
  /** Limited more tightly than other routes: guesses at secrets. */
  readonly guessable?: true
  /** What it returns is sent as JSON; undefined where the handler has answered itself. */
  handle(context: Context<Body, Query>): Promise<unknown>
}

/** Keeps the types of body and query together with the handler. */
export function route<Body = undefined, Query = undefined>(definition: Route<Body, Query>): Route {
  return definition as unknown as Route
}

/** A number in the path. */
export function idIn(params: Readonly<Record<string, string>>, name: string): number {
  const id = Number(params[name])
  return Number.isSafeInteger(id) && id > 0 ? id : 0
}
