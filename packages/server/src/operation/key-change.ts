import type { DataSource } from 'typeorm'
import type { Logger } from 'pino'
import { Problem } from '../http/problem.ts'
import { rotateKey } from '../vault/rotation.ts'
import type { Vault } from '../vault/vault.ts'

export type KeyChangeState =
  | { readonly state: 'none' }
  | { readonly state: 'running' }
  | { readonly state: 'done'; readonly sealed: number }
  | { readonly state: 'failed' }

/** Changes the key of a running server: what is read and written meanwhile is read and written as ever. */
export class KeyChange {
  #state: KeyChangeState = { state: 'none' }
  #work: Promise<void> = Promise.resolve()

  constructor(
    readonly database: DataSource,
    readonly vault: Vault,
    readonly dataFolder: string,
    readonly log: Logger,
  ) {}

  get state(): KeyChangeState {
    return this.#state
  }

  /** Whether the key is kept by this installation, or by whoever starts it. */
  get source(): 'file' | 'environment' {
    return process.env['JURYBOX_KEY'] === undefined && process.env['JURYBOX_KEY_COMMAND'] === undefined
      ? 'file'
      : 'environment'
  }

  /** Begins a change; does nothing where one runs. @throws Problem where the key comes from the environment */
  begin(): void {
    if (this.#state.state === 'running') return
    if (this.source === 'environment')
      throw new Problem(
        422,
        'The key comes from the environment of the server. Stop it and run ./jurybox rotate-key with the ' +
          'new key in JURYBOX_NEW_KEY.',
      )
    this.#state = { state: 'running' }
    this.#work = this.#run()
  }

  async #run(): Promise<void> {
    try {
      this.#state = { state: 'done', sealed: await rotateKey(this.database, this.vault, this.dataFolder, {}) }
    } catch (error) {
      this.#state = { state: 'failed' }
      this.log.error({ error: String(error) }, 'the change of keys was cut short; it goes on at the next try or start')
    }
  }

  async close(): Promise<void> {
    await this.#work
  }
}
