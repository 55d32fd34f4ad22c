import { randomBytes } from 'node:crypto'
import { LessThan, type DataSource } from 'typeorm'
import { Sessions, Users, type Session, type User } from '../db/entities.ts'
import { sha256 } from '../vault/vault.ts'

const IDLE_MS = 8 * 3_600_000
const LONGEST_MS = 24 * 3_600_000

/** Who is signed in. The browser holds a random token; the database only its hash. */
export class SessionStore {
  constructor(readonly database: DataSource) {}

  async open(user: User): Promise<{ token: string; session: Session }> {
    const token = randomBytes(32).toString('base64url')
    const now = new Date()
    const session: Session = { tokenHash: sha256(token), userId: user.id, csrf: randomBytes(32).toString('base64url'), createdAt: now, seenAt: now }
    const sessions = this.database.getRepository(Sessions)
    await sessions.delete({ createdAt: LessThan(new Date(now.getTime() - LONGEST_MS)) })
    await sessions.insert(session)
    return { token, session }
  }

  async find(token: string): Promise<{ user: User; session: Session } | null> {
    const session = await this.database.getRepository(Sessions).findOneBy({ tokenHash: sha256(token) })
    if (!session) return null
    const now = Date.now()
    if (now - session.seenAt.getTime() > IDLE_MS || now - session.createdAt.getTime() > LONGEST_MS) {
      await this.close(token)
      return null
    }
    if (now - session.seenAt.getTime() > 60_000) await this.database.getRepository(Sessions).update({ tokenHash: session.tokenHash }, { seenAt: new Date(now) })
    const user = await this.database.getRepository(Users).findOneBy({ id: session.userId })
    return user && { user, session }
  }

  async close(token: string): Promise<void> {
    await this.database.getRepository(Sessions).delete({ tokenHash: sha256(token) })
  }
}
