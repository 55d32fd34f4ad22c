import { randomBytes } from 'node:crypto'
import { EventEmitter } from 'node:events'
import { LessThan, Not, type DataSource } from 'typeorm'
import { Memberships } from '../engagements/entity.ts'
import { Sessions, Users, type Session, type User } from './entity.ts'
import { sha256 } from '../vault/vault.ts'

const IDLE_MS = 8 * 3_600_000
const LONGEST_MS = 24 * 3_600_000

/** From where a session was opened, for its owner to know it again. */
export interface SessionOrigin {
  readonly address: string
  readonly agent: string
}

/** A session as its owner sees it. */
export interface SessionView {
  /** The first digits of the hash of its token. */
  readonly id: string
  readonly address: string
  readonly agent: string
  readonly createdAt: string
  readonly seenAt: string
  readonly isThis: boolean
}

const ID_DIGITS = 16

/**
 * Who is signed in. The browser holds a random token; the database only its hash. Sessions end by idle and by absolute
 * time.
 */
export class SessionStore {
  readonly #events = new EventEmitter<{ ended: [number] }>().setMaxListeners(0)

  constructor(readonly database: DataSource) {}

  async open(user: User, { address, agent }: SessionOrigin): Promise<{ token: string; session: Session }> {
    const token = randomBytes(32).toString('base64url')
    const now = new Date()
    const session: Session = {
      tokenHash: sha256(token),
      userId: user.id,
      csrf: randomBytes(32).toString('base64url'),
      address: address.slice(0, 64),
      agent: agent.slice(0, 200),
      createdAt: now,
      seenAt: now,
      provedAt: now,
    }
    const sessions = this.database.getRepository(Sessions)
    await sessions.delete({ createdAt: LessThan(new Date(now.getTime() - LONGEST_MS)) })
    await sessions.insert(session)
    await this.database.getRepository(Users).update({ id: user.id }, { signedInAt: now })
    return { token, session }
  }

  async find(token: string): Promise<{ user: User; session: Session } | null> {
    const session = await this.database.getRepository(Sessions).findOneBy({ tokenHash: sha256(token) })
    if (!session) return null
    const now = Date.now()
    if (now - session.seenAt.getTime() > IDLE_MS || now - session.createdAt.getTime() > LONGEST_MS) {
      await this.close(token, session.userId)
      return null
    }
    if (now - session.seenAt.getTime() > 60_000)
      await this.database.getRepository(Sessions).update({ tokenHash: session.tokenHash }, { seenAt: new Date(now) })
    const user = await this.database.getRepository(Users).findOneBy({ id: session.userId })
    return user && !user.disabled ? { user, session } : null
  }

  /** Whether a session lives and its owner is a member of an engagement; does not count as being there. */
  async hears(token: string, engagementId: number): Promise<boolean> {
    const session = await this.database.getRepository(Sessions).findOneBy({ tokenHash: sha256(token) })
    return (
      session !== null &&
      (await this.database.getRepository(Memberships).existsBy({ engagementId, userId: session.userId }))
    )
  }

  /** Notes that its owner has just confirmed their identity. */
  async prove(token: string): Promise<void> {
    await this.database.getRepository(Sessions).update({ tokenHash: sha256(token) }, { provedAt: new Date() })
  }

  async list(userId: number, token: string): Promise<SessionView[]> {
    const own = sha256(token)
    const found = await this.database.getRepository(Sessions).find({ where: { userId }, order: { seenAt: 'DESC' } })
    return found.map(({ tokenHash, address, agent, createdAt, seenAt }) => ({
      id: tokenHash.slice(0, ID_DIGITS),
      address,
      agent,
      createdAt: createdAt.toISOString(),
      seenAt: seenAt.toISOString(),
      isThis: tokenHash === own,
    }))
  }

  async close(token: string, userId: number): Promise<void> {
    await this.database.getRepository(Sessions).delete({ tokenHash: sha256(token) })
    this.#events.emit('ended', userId)
  }

  /** Ends the sessions of a person, besides one where a token is given. */
  async closeAll(userId: number, besides: string | null): Promise<void> {
    await this.database
      .getRepository(Sessions)
      .delete(besides === null ? { userId } : { userId, tokenHash: Not(sha256(besides)) })
    this.#events.emit('ended', userId)
  }

  /** What an account may do has changed: its streams ask again. */
  changed(userId: number): void {
    this.#events.emit('ended', userId)
  }

  /** @param heard is given the id of the person. @returns a function that ends the listening */
  onEnded(heard: (userId: number) => void): () => void {
    this.#events.on('ended', heard)
    return () => this.#events.off('ended', heard)
  }
}
