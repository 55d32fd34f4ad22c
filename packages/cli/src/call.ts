/** What went wrong with the call itself: told to the user, exit status 2. */
export class UsageError extends Error {}

export interface Output {
  readonly stdout: (text: string) => void
  readonly stderr: (text: string) => void
}
