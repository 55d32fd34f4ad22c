import { randomBytes } from 'node:crypto'
import { generateSecret, generateURI, verify } from 'otplib'
import type { DataSource } from 'typeorm'
import { Users, type User } from './entity.ts'
import { Problem } from '../http/problem.ts'
import { sha256, type Vault } from '../vault/vault.ts'

/** Codes by time (TOTP, RFC 6238): six digits, a new one every 30 seconds, one step of tolerance either way. */
const STEP_SECONDS = 30
const RECOVERY_CODES = 10
/** How long a begun set-up waits for its first code. */
const BEGUN_MS = 10 * 60_000

export const secondFactorPlace = (userId: number): string => `second factor ${userId}`
const hashOf = (userId: number, code: string): string =>
  sha256(`recovery ${userId} ${code.replaceAll('-', '').toLowerCase()}`)

export class SecondFactor {
  readonly #begun = new Map<number, { readonly secret: string; readonly until: number }>()

  constructor(
    readonly database: DataSource,
    readonly vault: Vault,
  ) {}

  /** A secret that counts once a code of it was given. */
  begin(user: User): { secret: string; uri: string } {
    const secret = generateSecret()
    this.#begun.set(user.id, { secret, until: Date.now() + BEGUN_MS })
    return { secret, uri: generateURI({ issuer: 'Jury Box', label: user.name, secret }) }
  }

  /** @returns the recovery codes, which are shown this once */
  async confirm(user: User, code: string): Promise<string[]> {
    const begun = this.#begun.get(user.id)
    if (!begun || begun.until < Date.now()) throw new Problem(409, 'The setup took too long. Start again.')
    const step = await stepOf(begun.secret, code, 0)
    if (step === null) throw new Problem(403, 'The code does not match. Check the clock of your device.')
    this.#begun.delete(user.id)
    const codes = Array.from({ length: RECOVERY_CODES }, recoveryCode)
    await this.database
      .getRepository(Users)
      .update(
        { id: user.id },
        {
          totp: this.vault.seal(Buffer.from(begun.secret), secondFactorPlace(user.id)),
          totpStep: step,
          recovery: codes.map((one) => hashOf(user.id, one)),
        },
      )
    return codes
  }

  async remove(userId: number): Promise<void> {
    await this.database.getRepository(Users).update({ id: userId }, { totp: null, totpStep: 0, recovery: null })
  }

  /** Whether a code proves the second factor. Each code counts once, a recovery code for good. */
  async proves(user: User, code: string): Promise<boolean> {
    if (user.totp === null) return true
    const users = this.database.getRepository(Users)
    const secret = this.vault.unseal(user.totp, secondFactorPlace(user.id)).toString()
    const step = await stepOf(secret, code, user.totpStep)
    if (step !== null) {
      // Of two that come at once with one code, one is first.
      const { affected } = await users.update({ id: user.id, totpStep: user.totpStep }, { totpStep: step })
      return affected === 1
    }
    const hash = hashOf(user.id, code.trim())
    const left = (user.recovery ?? []).filter((one) => one !== hash)
    if (left.length === (user.recovery ?? []).length) return false
    await users.update({ id: user.id }, { recovery: left })
    return true
  }
}

/** The step of time that a code belongs to; null where it is of none later than `after`. */
async function stepOf(secret: string, code: string, after: number): Promise<number | null> {
  const digits = code.replace(/\s/g, '')
  if (!/^\d{6}$/.test(digits)) return null
  const answer = await verify({ secret, token: digits, period: STEP_SECONDS, epochTolerance: STEP_SECONDS })
  if (!answer.valid) return null
  const step = Math.floor(Date.now() / 1000 / STEP_SECONDS) + answer.delta
  return step > after ? step : null
}

function recoveryCode(): string {
  const digits = randomBytes(8).toString('hex')
  return digits.replace(/.{4}(?=.)/g, '$&-')
}
