/** How far a collection comes on one device; where it stops is the reason that it gives. */
export const STEPS = ['name', 'reachable', 'tcp', 'ssh', 'key', 'login', 'privilege', 'command', 'listing'] as const
export type Step = (typeof STEPS)[number]

export const STEP_TITLES: Readonly<Record<Step, string>> = {
  name: 'name resolution',
  reachable: 'ping',
  tcp: 'TCP connect',
  ssh: 'SSH negotiation',
  key: 'host key',
  login: 'login',
  privilege: 'privilege',
  command: 'commands',
  listing: 'complete listings',
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
