import type { Endpoint, ResponseOf, Sent } from '@jurybox/api/endpoint'
import type { ParamsOf } from '@jurybox/api/parameters'
import type { Role } from '@jurybox/api/roles'
import type { Request, Response } from 'express'
import type { z } from 'zod'
import type { Session, User } from '../auth/entity.ts'
import type { Services } from '../services.ts'

export interface Caller {
  readonly user: User
  readonly session: Session
  readonly token: string
}

type Parsed<E, Part extends 'query' | 'body'> =
  E extends Readonly<Record<Part, infer Schema extends z.ZodType>> ? z.output<Schema> : undefined

/** What a handler gets: the parts of the request as their schemas return them. */
export interface Context<E extends Endpoint = Endpoint> {
  readonly services: Services
  readonly request: Request
  readonly response: Response
  /** Present unless the route is open to everyone. */
  readonly caller: Caller
  /** The engagement in the path and the caller's role in it, where the route asks for a permission. */
  readonly engagementId: number
  readonly role: Role
  readonly params: ParamsOf<E['path']>
  readonly body: Parsed<E, 'body'>
  readonly query: Parsed<E, 'query'>
  /** Aborted when the client no longer waits. */
  readonly gone: AbortSignal
}

/** An endpoint with the function that answers it. */
export interface Route {
  readonly endpoint: Endpoint
  /** What it returns is sent as JSON; undefined where the handler has answered itself, or there is nothing to say. */
  handle(context: Context): Promise<unknown>
}

/** Implements an endpoint: parameters, query, body and response have its types. */
export function route<const E extends Endpoint>(
  endpoint: E,
  handle: (context: Context<E>) => Promise<Sent<ResponseOf<E>>>,
): Route {
  return { endpoint, handle: handle as unknown as Route['handle'] }
}
