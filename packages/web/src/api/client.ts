/** What the server said went wrong, in words for people. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
    /** What kind of refusal it is, where something can be done about it. */
    readonly code: string | null = null,
  ) {
    super(message)
  }
}

/** The server is still reading the estate, or working on an answer: it can be asked again. */
export class StillReading extends Error {
  constructor(
    readonly done: number,
    readonly total: number,
    /** What is counted, where it is not devices that are read. */
    readonly of?: string,
  ) {
    super(
      of === undefined
        ? `The estate is being read: ${done} of ${total} devices`
        : `The question is being answered: ${done} of ${total} ${of}`,
    )
  }
}

let csrf = ''
let signedOut: () => void = () => undefined

export function useCsrf(token: string): void {
  csrf = token
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
  const { isFresh } = await call<{ isFresh: boolean }>('GET', '/session')
  if (isFresh || (await confirmIdentity())) location.assign(address)
}

async function call<T>(method: string, path: string, init: RequestInit = {}): Promise<T> {
  let response: Response
  try {
    response = await fetch(`/api${path}`, {
      method,
      ...init,
      headers: {
        ...(init.headers as Record<string, string> | undefined),
        ...(method === 'GET' ? {} : { 'X-CSRF-Token': csrf }),
      },
    })
  } catch (error) {
    if (init.signal?.aborted) throw error
    throw new ApiError(0, 'The server does not answer. Is Jury Box still running?')
  }
  if (response.status === 204) return undefined as T
  const body: unknown = await response.json().catch(() => null)
  if (response.status === 202 && typeof body === 'object' && body !== null && 'reading' in body) {
    const { done, total, of } = body.reading as { done: number; total: number; of?: string }
    throw new StillReading(done, total, of)
  }
  if (response.ok) return body as T
  const words =
    typeof body === 'object' && body !== null && 'error' in body
      ? String(body.error)
      : `The server answered with status ${response.status}.`
  const code = typeof body === 'object' && body !== null && 'code' in body ? String(body.code) : null
  if (response.status === 401 && code === null && path !== '/sign-in') signedOut()
  if (code === 'confirm-identity' && (await confirmIdentity())) return call<T>(method, path, init)
  if (code === 'password-change-needed') passwordNeeded()
  throw new ApiError(response.status, words, code)
}

const json = (body: unknown): RequestInit => ({
  body: JSON.stringify(body),
  headers: { 'Content-Type': 'application/json' },
})

export const api = {
  get: <T>(path: string, query: Record<string, string | number | undefined> = {}): Promise<T> => {
    const search = new URLSearchParams(
      Object.entries(query).flatMap(([name, value]) =>
        value === undefined || value === '' ? [] : [[name, String(value)]],
      ),
    )
    return call<T>('GET', search.size > 0 ? `${path}?${search}` : path)
  },
  /** @param signal ends the wait, and the work where the server can */
  post: <T = void>(path: string, body: unknown = {}, signal?: AbortSignal): Promise<T> =>
    call<T>('POST', path, { ...json(body), ...(signal ? { signal } : {}) }),
  put: <T = void>(path: string, body: unknown): Promise<T> => call<T>('PUT', path, json(body)),
  delete: (path: string): Promise<void> => call('DELETE', path),
  upload: <T>(path: string, files: readonly { path: string; file: Blob }[]): Promise<T> => {
    const form = new FormData()
    form.set('data', JSON.stringify({ paths: files.map((file) => file.path) }))
    for (const { path: name, file } of files) form.append('files', file, name.split('/').at(-1) ?? name)
    return call<T>('POST', path, { body: form })
  },
}

export function wordsOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}
