import { t } from '../messages/index.ts'
import { getSession } from '@jurybox/api/sessions'
import type { BodyOf, Endpoint, GivenParams, PathOf, QueryOf, ResponseOf } from '@jurybox/api/endpoint'

/** A field of a form that the server refused. */
export interface FieldFault {
  readonly field: string
  readonly message: string
}

/** What the server said went wrong, in words for people. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
    /** What kind of refusal it is, where something can be done about it. */
    readonly code: string | null = null,
    /** The fields that are wrong, where it is a form. */
    readonly fields: readonly FieldFault[] = [],
  ) {
    super(message)
  }
}

/** The server is still parsing the estate, or working on an answer: it can be asked again. */
export class StillReading extends Error {
  constructor(
    readonly done: number,
    readonly total: number,
    /** What is counted, where it is not devices that are parsed. */
    readonly of?: string,
  ) {
    super(
      of === undefined
        ? t('api.theEstateIsBeingParsed', { done, total })
        : t('api.theQuestionIsBeingAnswered', { done, total, n: of }),
    )
  }
}

let csrf = ''
let openEngagement = 0
let signedOut: () => void = () => undefined

export function useCsrf(token: string): void {
  csrf = token
}

/** The engagement whose routes are called where a call names none. */
export function useEngagementId(id: number): void {
  openEngagement = id
}

/** Called when the server no longer knows who is asking. */
export function onSignedOut(hear: () => void): void {
  signedOut = hear
}

let confirmIdentity: () => Promise<boolean> = () => Promise.resolve(false)
let passwordNeeded: () => void = () => undefined

/** @param ask asks the person for the password; answers whether it was right */
export function onConfirmIdentity(ask: () => Promise<boolean>): void {
  confirmIdentity = ask
}

/** Called when the account still has the password that someone else gave it. */
export function onPasswordNeeded(hear: () => void): void {
  passwordNeeded = hear
}

/** Downloads a file that needs a recently confirmed identity. */
export async function downloadConfirmed(address: string): Promise<void> {
  const { isFresh } = await call(getSession)
  if (isFresh || (await confirmIdentity())) location.assign(address)
}

/** What a call gives: parameters of the path, query and body; what an endpoint does not have is left out. */
export type Given<E extends Endpoint> = Part<'params', GivenParams<E>> &
  Part<'query', QueryOf<E>> &
  Part<'body', BodyOf<E>>

type Part<Name extends string, T> = T extends undefined
  ? { readonly [K in Name]?: undefined }
  : Record<string, never> extends T
    ? { readonly [K in Name]?: T }
    : { readonly [K in Name]: T }

/** A call may leave out what it gives where nothing has to be given. */
export type Rest<E extends Endpoint> =
  Record<string, never> extends Given<E>
    ? [given?: Given<E>, signal?: AbortSignal]
    : [given: Given<E>, signal?: AbortSignal]

/**
 * Calls an endpoint; the response has its type.
 * @throws ApiError where it is refused, StillReading where the answer is not ready
 */
export async function call<const E extends Endpoint>(endpoint: E, ...[given, signal]: Rest<E>): Promise<ResponseOf<E>> {
  const { query, body } = (given ?? {}) as { query?: Readonly<Record<string, unknown>>; body?: unknown }
  const path = pathOf(endpoint, given as AnyGiven | undefined)
  const init: RequestInit = { ...(signal ? { signal } : {}), ...(endpoint.method === 'get' ? {} : json(body ?? {})) }
  return (await send(endpoint.method.toUpperCase(), `${path}${searchOf(query)}`, init)) as ResponseOf<E>
}

/** Sends files to an endpoint that takes them. */
export async function upload<const E extends Endpoint>(
  endpoint: E,
  files: readonly { path: string; file: Blob }[],
  given?: { readonly params?: GivenParams<E> },
): Promise<ResponseOf<E>> {
  const form = new FormData()
  form.set('data', JSON.stringify({ paths: files.map((file) => file.path) }))
  for (const { path: name, file } of files) form.append('files', file, name.split('/').at(-1) ?? name)
  return (await send('POST', pathOf(endpoint, given as AnyGiven | undefined), { body: form })) as ResponseOf<E>
}

/** The address of a file or stream, for a link. */
export function addressOf<const E extends Endpoint<string>>(
  endpoint: E,
  given?: { readonly params?: GivenParams<E>; readonly query?: QueryOf<E> },
): string {
  return `/api${pathOf(endpoint, given as AnyGiven | undefined)}${searchOf(given?.query as AnyGiven['query'])}`
}

interface AnyGiven {
  readonly params?: Readonly<Record<string, string | number | undefined>>
  readonly query?: Readonly<Record<string, unknown>>
}

function pathOf<E extends Endpoint>({ path }: E, { params }: AnyGiven = {}): PathOf<E> {
  return path.replace(/:(\w+)/g, (_, name: string) =>
    encodeURIComponent(String(params?.[name] ?? (name === 'engagement' ? openEngagement : ''))),
  ) as PathOf<E>
}

function searchOf(query: Readonly<Record<string, unknown>> = {}): string {
  const search = new URLSearchParams(
    Object.entries(query).flatMap(([name, value]) =>
      value === undefined || value === '' ? [] : [[name, Array.isArray(value) ? value.join(',') : String(value)]],
    ),
  )
  return search.size > 0 ? `?${search}` : ''
}

/**
 * A file that the server makes.
 * @param address as {@link addressOf} gives it
 * @throws ApiError where it is refused
 */
export async function fileAt(address: string, signal: AbortSignal): Promise<Blob> {
  const response = await fetched(address, { signal })
  if (response.ok) return response.blob()
  const body = await refusalIn(response)
  if (response.status === 401) signedOut()
  throw errorOf(response, body)
}

async function fetched(address: string, init: RequestInit): Promise<Response> {
  try {
    return await fetch(address, init)
  } catch (error) {
    if (init.signal?.aborted) throw error
    throw new ApiError(0, t('api.theServerDoesNotAnswer'))
  }
}

async function send(method: string, path: string, init: RequestInit = {}): Promise<unknown> {
  const response = await fetched(`/api${path}`, {
    method,
    ...init,
    headers: {
      ...(init.headers as Record<string, string> | undefined),
      ...(method === 'GET' ? {} : { 'X-CSRF-Token': csrf }),
    },
  })
  if (response.status === 204) return undefined
  const body = await refusalIn(response)
  if (response.status === 202 && body?.reading)
    throw new StillReading(body.reading.done, body.reading.total, body.reading.of)
  if (response.ok) return body
  const code = body?.code ?? null
  if (response.status === 401 && code === null && path !== '/sign-in') signedOut()
  if (code === 'confirm-identity' && (await confirmIdentity())) return send(method, path, init)
  if (code === 'password-change-needed') passwordNeeded()
  throw errorOf(response, body)
}

async function refusalIn(response: Response): Promise<Partial<Refusal> | null> {
  return (await response.json().catch(() => null)) as Partial<Refusal> | null
}

function errorOf({ status }: Response, body: Partial<Refusal> | null): ApiError {
  const message = body?.error ?? t('api.theServerAnsweredWithStatus', { status })
  return new ApiError(status, message, body?.code ?? null, body?.fields ?? [])
}

/** What the server sends where it does not do what was asked, or not yet. */
interface Refusal {
  readonly error: string
  readonly code: string
  readonly fields: readonly FieldFault[]
  readonly reading: { readonly done: number; readonly total: number; readonly of?: string }
}

const json = (body: unknown): RequestInit => ({
  body: JSON.stringify(body),
  headers: { 'Content-Type': 'application/json' },
})

export function wordsOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}
