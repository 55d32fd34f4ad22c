import type { z } from 'zod'
import type { ParamsOf } from './parameters.ts'
import type { Permission } from './roles.ts'

/**
 * Who may call it: everyone, signed-in users, administrators of the installation, or members of the engagement in the
 * path with a permission.
 */
export type Access = 'everyone' | 'signed-in' | 'administrator' | Permission

/** What one route takes and returns; server, browser and the OpenAPI description are made from it. */
export interface Endpoint<
  Path extends string = string,
  Query extends z.ZodType = z.ZodType,
  Body extends z.ZodType = z.ZodType,
  Response extends z.ZodType = z.ZodType,
> {
  readonly method: 'get' | 'post' | 'put' | 'delete'
  /** Below /api; `:name` is a parameter. */
  readonly path: Path
  readonly access: Access
  /** One line for the description of the API. */
  readonly summary: string
  readonly query?: Query
  readonly body?: Body
  /** JSON that it returns; without it, nothing (204). */
  readonly response?: Response
  /** Media type of the file that it returns instead of JSON. */
  readonly file?: string
  /** Server-sent events that it returns instead of JSON, by their name. */
  readonly events?: Readonly<Record<string, z.ZodType>>
  /** Files in a multipart form; the body is its field `data`. */
  readonly upload?: true
  /** The body may be larger than 64 kB. */
  readonly large?: true
  /** Only for users who confirmed their identity within the last quarter of an hour. */
  readonly fresh?: true
  /** A token reads it too, in place of a session, where it is for this table. */
  readonly token?: true
  /** Limited more tightly than other routes: guesses at secrets. */
  readonly guessable?: true
}

/** Any endpoint, whatever its types. */
export type AnyEndpoint = Endpoint

export type QueryOf<E> = E extends { readonly query: infer Q extends z.ZodType } ? Sent<z.input<Q>> : undefined
export type BodyOf<E> = E extends { readonly body: infer B extends z.ZodType } ? Sent<z.input<B>> : undefined
/** A body as its schema returns it: with its defaults. */
export type BodyOut<E> = E extends { readonly body: infer B extends z.ZodType } ? z.output<B> : undefined
export type ResponseOf<E> = E extends { readonly response: infer R extends z.ZodType } ? z.output<R> : undefined
export type PathOf<E> = E extends { readonly path: infer P extends string } ? P : string

/** Everything that a handler may return for a response: read-only is fine. */
export type Sent<T> = T extends readonly (infer Item)[]
  ? readonly Sent<Item>[]
  : T extends object
    ? { readonly [K in keyof T]: Sent<T[K]> }
    : T

/** The parameters that a caller gives; the engagement is the one that is open where it is left out. */
export type GivenParams<E> = Omit<ParamsOf<PathOf<E>>, 'engagement'> & { readonly engagement?: number }

/** Keeps the literal types of a definition. */
export function endpoint<const E extends Endpoint>(definition: E): E {
  return definition
}
