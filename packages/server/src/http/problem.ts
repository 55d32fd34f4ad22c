/** An error for the client: its status, and words that say what happened and what to do. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly detail: Readonly<Record<string, unknown>> = {},
  ) {
    super(message)
  }
}

export const notFound = (what: string): Problem => new Problem(404, `There is no such ${what} in this engagement.`)

/** What is said of an address that leads nowhere. */
export const NOWHERE = 'Page not found: there is nothing at this address.'
