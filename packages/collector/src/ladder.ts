/** How far a collection comes on one device; where it stops is the reason that it gives. */
export const STEPS = ['name', 'reachable', 'tcp', 'ssh', 'key', 'login', 'privilege', 'command', 'listing'] as const
export type Step = (typeof STEPS)[number]

export const STEP_TITLES: Readonly<Record<Step, string>> = {
  name: 'its name has an address',
  reachable: 'the address is reachable',
  tcp: 'the port answers',
  ssh: 'SSH is agreed on',
  key: 'the host key is the one that was seen before',
  login: 'a credential fits',
  privilege: 'more rights are given',
  command: 'the commands are understood',
  listing: 'the listings are complete',
}

/** Why a device was not collected: the step at which it stopped, and what was seen there. Never a secret. */
export class StepError extends Error {
  constructor(
    readonly step: Step,
    message: string,
    /** A device that is busy or a line that broke may answer next time; a wrong key or password will not. */
    readonly again: boolean,
  ) {
    super(message)
  }
}
