import { spawn, type ChildProcess } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { userInfo } from 'node:os'
import { join } from 'node:path'
import { createConnection } from 'mysql2/promise'

export interface DatabaseAccess {
  readonly host: '127.0.0.1'
  readonly port: number
  readonly username: string
  readonly password: string
  readonly database: string
}

/** The account of other tools: it reads the tables that are made for them, and nothing else. */
export const READER = 'jurybox_reader'

const LONGEST_PAUSE_MS = 15_000

const PORTS_TRIED = 5

/** What the server says of a port that another program listens on, with the number of EADDRINUSE. */
const PORT_TAKEN = 'Bind on TCP/IP port. Got error: 98'

/**
 * A MariaDB server of our own on loopback, with its data in one folder and a password made for it. Never the system's
 * instance: own port, own socket, own configuration (none of the system's files are read).
 */
export class PrivateMariaDb {
  #process: ChildProcess | null = null
  #stopping = false
  /** Called when the database server ends unexpectedly, and when it answers again. */
  onChange: (state: 'away' | 'back', detail: string) => void = () => undefined

  /** For daily work: reads and writes rows, and changes neither the schema nor the audit log. */
  readonly appAccess: DatabaseAccess

  /** @param access of the owner, who changes the schema */
  private constructor(
    readonly access: DatabaseAccess,
    readonly folder: string,
    readonly readerIsOn: boolean,
  ) {
    this.appAccess = { ...access, username: 'jurybox_app', password: randomBytes(24).toString('base64url') }
  }

  /** How a server that another process of this machine runs on a data folder is reached. */
  static accessOf(dataFolder: string): DatabaseAccess {
    const port = Number(readFileSync(join(dataFolder, 'mariadb', 'port'), 'utf8'))
    return accessOf(dataFolder, port)
  }

  /**
   * @param readerPassword of the account that reads the tables for other tools; null: there is none
   * @param nextPort a port that was free a moment ago: another program can take it before the server does
   * @throws Error with the server's own last words, where it does not come up
   */
  static async start(
    dataFolder: string,
    nextPort: () => Promise<number> = freePort,
    readerPassword: string | null = null,
  ): Promise<PrivateMariaDb> {
    const folder = join(dataFolder, 'mariadb')
    mkdirSync(folder, { recursive: true, mode: 0o700 })
    const passwordFile = join(dataFolder, 'database-password')
    const fresh = !existsSync(join(folder, 'data', '.ready'))
    if (fresh) {
      // A first start that was cut short leaves half a database: begin again.
      rmSync(folder, { recursive: true, force: true })
      mkdirSync(folder, { recursive: true, mode: 0o700 })
      writeFileSync(passwordFile, randomBytes(24).toString('base64url'), { mode: 0o600 })
      await createSystemTables(join(folder, 'data'), temporaryIn(folder))
    }
    for (let tries = 0; tries < PORTS_TRIED; tries++) {
      const server = await PrivateMariaDb.#startOn(await nextPort(), dataFolder, readerPassword)
      if (server === 'port taken') continue
      if (fresh) writeFileSync(join(folder, 'data', '.ready'), '')
      return server
    }
    throw new Error(`The database found no free port in ${PORTS_TRIED} tries.`)
  }

  static async #startOn(
    port: number,
    dataFolder: string,
    readerPassword: string | null,
  ): Promise<PrivateMariaDb | 'port taken'> {
    const folder = join(dataFolder, 'mariadb')
    const server = new PrivateMariaDb(accessOf(dataFolder, port), folder, readerPassword !== null)
    writeFileSync(join(folder, 'port'), `${server.access.port}\n`, { mode: 0o600 })
    // The accounts come from a file that only this process reads, then forgets: the one for daily work has a new
    // password each time.
    const init = join(folder, 'init.sql')
    const { access, appAccess } = server
    writeFileSync(
      init,
      `CREATE DATABASE IF NOT EXISTS jurybox CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
CREATE OR REPLACE USER '${access.username}'@'127.0.0.1' IDENTIFIED BY '${access.password}';
GRANT ALL ON jurybox.* TO '${access.username}'@'127.0.0.1' WITH GRANT OPTION;
CREATE OR REPLACE USER '${appAccess.username}'@'127.0.0.1' IDENTIFIED BY '${appAccess.password}';
${
  readerPassword === null
    ? `DROP USER IF EXISTS '${READER}'@'127.0.0.1';`
    : `CREATE OR REPLACE USER '${READER}'@'127.0.0.1' IDENTIFIED BY '${readerPassword}';`
}
`,
      { mode: 0o600 },
    )
    try {
      await server.#launch([`--init-file=${init}`])
      return server
    } catch (error) {
      if (error instanceof Error && error.message.includes(PORT_TAKEN)) return 'port taken'
      throw error
    } finally {
      writeFileSync(init, '')
    }
  }

  /**
   * A server of ours that outlived its process (killed, say) holds the folder: it is stopped first, and nothing else.
   */
  async #stopLeftOver(): Promise<void> {
    const pidFile = join(this.folder, 'mariadb.pid')
    const pid = existsSync(pidFile) ? Number(readFileSync(pidFile, 'utf8')) : 0
    const isOurs = (): boolean =>
      pid > 0 &&
      existsSync(`/proc/${pid}/cmdline`) &&
      readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(`--datadir=${join(this.folder, 'data')}`)
    if (!isOurs()) return
    process.kill(pid, 'SIGTERM')
    for (let left = 300; left > 0 && isOurs(); left--) await new Promise((resolve) => setTimeout(resolve, 100))
  }

  async #launch(extra: readonly string[]): Promise<void> {
    await this.#stopLeftOver()
    const args = [
      '--no-defaults',
      `--datadir=${join(this.folder, 'data')}`,
      `--tmpdir=${temporaryIn(this.folder)}`,
      `--socket=${join(this.folder, 's.sock')}`,
      `--pid-file=${join(this.folder, 'mariadb.pid')}`,
      `--user=${userInfo().username}`,
      '--bind-address=127.0.0.1',
      `--port=${this.access.port}`,
      '--skip-name-resolve',
      '--skip-log-bin',
      '--innodb-buffer-pool-size=256M',
      '--innodb-flush-log-at-trx-commit=1',
      '--max-allowed-packet=128M',
      '--character-set-server=utf8mb4',
      ...extra,
    ]
    // Its own process group: a Ctrl-C at the terminal reaches us, and we stop the server in order.
    const child = spawn('mariadbd', args, { stdio: ['ignore', 'ignore', 'pipe'], detached: true })
    this.#process = child
    let words = ''
    child.stderr.on('data', (chunk: Buffer) => (words = (words + chunk.toString()).slice(-4000)))
    const ended = new Promise<never>((_, reject) =>
      child.once('exit', (code) => reject(new Error(`The database did not start (exit ${code}):\n${words}`))),
    )
    ended.catch(() => undefined)
    await Promise.race([this.#answers(), ended])
    child.once('exit', (code, signal) => {
      if (!this.#stopping) void this.#revive(`ended with ${signal ?? code}: ${words.trim().split('\n').at(-1) ?? ''}`)
    })
  }

  /** Starts the server again, on the same port, until it answers or is no longer wanted. */
  async #revive(why: string): Promise<void> {
    this.onChange('away', why)
    for (let pause = 500; !this.#stopping; pause = Math.min(pause * 2, LONGEST_PAUSE_MS)) {
      await new Promise((resolve) => setTimeout(resolve, pause))
      if (this.#stopping) return
      try {
        await this.#launch([])
        this.onChange('back', 'answers again')
        return
      } catch (error) {
        this.onChange('away', error instanceof Error ? error.message : String(error))
      }
    }
  }

  async #answers(): Promise<void> {
    const { host, port, username: user, password, database } = this.access
    for (let left = 1200; ; left--) {
      try {
        const connection = await createConnection({ host, port, user, password, database })
        await connection.end()
        return
      } catch (error) {
        if (left === 0) throw error
        await new Promise((resolve) => setTimeout(resolve, 100))
      }
    }
  }

  async stop(): Promise<void> {
    this.#stopping = true
    const child = this.#process
    this.#process = null
    if (!child || child.exitCode !== null || child.signalCode !== null) return
    await new Promise<void>((resolve) => {
      child.once('exit', () => resolve())
      child.kill('SIGTERM')
    })
  }
}

function accessOf(dataFolder: string, port: number): DatabaseAccess {
  const password = readFileSync(join(dataFolder, 'database-password'), 'utf8').trim()
  return { host: '127.0.0.1', port, username: 'jurybox', password, database: 'jurybox' }
}

/**
 * A folder of its own for temporary tables: a server that starts deletes those that it finds, of others as well where
 * they share one.
 */
function temporaryIn(folder: string): string {
  const temporary = join(folder, 'tmp')
  mkdirSync(temporary, { recursive: true, mode: 0o700 })
  return temporary
}

const SYSTEM_SQL = '/usr/share/mysql'

/**
 * Makes the tables that a MariaDB server keeps for itself, as Debian's own install script does (which needs programs
 * that the server package does not bring): its SQL files, fed to a server that reads no network.
 */
async function createSystemTables(dataFolder: string, temporary: string): Promise<void> {
  mkdirSync(dataFolder, { recursive: true, mode: 0o700 })
  // No account but ours: the ones that come with the tables have no password.
  // Called mysql_… up to MariaDB 10.11 and mariadb_… since.
  const family = existsSync(join(SYSTEM_SQL, 'mariadb_system_tables.sql')) ? 'mariadb' : 'mysql'
  const files = [
    `${family}_system_tables.sql`,
    `${family}_performance_tables.sql`,
    `${family}_system_tables_data.sql`,
    'maria_add_gis_sp_bootstrap.sql',
    `${family}_sys_schema.sql`,
  ]
  const sql = files.map((file) => readFileSync(join(SYSTEM_SQL, file), 'utf8')).join('\n')
  const child = spawn(
    'mariadbd',
    [
      '--no-defaults',
      '--bootstrap',
      `--datadir=${dataFolder}`,
      `--tmpdir=${temporary}`,
      `--user=${userInfo().username}`,
      '--skip-log-bin',
      '--max-allowed-packet=8M',
      '--net-buffer-length=16K',
      '--default-storage-engine=InnoDB',
    ],
    { stdio: ['pipe', 'ignore', 'pipe'] },
  )
  let words = ''
  child.stderr.on('data', (chunk: Buffer) => (words = (words + chunk.toString()).slice(-4000)))
  // Where it ends before it has read all, its exit says why.
  child.stdin.once('error', () => undefined)
  child.stdin.end(
    `CREATE DATABASE IF NOT EXISTS mysql;
USE mysql;
SET @auth_root_socket=NULL;
SET @skip_auth_anonymous=1;
${sql}
DELETE FROM mysql.global_priv WHERE User = 'root';
`,
  )
  await new Promise<void>((resolve, reject) => {
    child.once('error', reject)
    child.once('exit', (code) =>
      code === 0 ? resolve() : reject(new Error(`The database could not be set up (exit ${code}):\n${words}`)),
    )
  })
}

function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer()
    probe.once('error', reject)
    probe.listen(0, '127.0.0.1', () => {
      const address = probe.address()
      probe.close(() =>
        typeof address === 'object' && address ? resolve(address.port) : reject(new Error('no free port')),
      )
    })
  })
}
