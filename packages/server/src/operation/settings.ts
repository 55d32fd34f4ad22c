import { z } from 'zod'

const logLevels = ['trace', 'debug', 'info', 'warn', 'error', 'fatal', 'silent'] as const

const settingsSchema = z.object({
  /** TCP port on loopback. */
  JURYBOX_PORT: z.coerce.number().int().min(0).max(65_535).default(4680),
  JURYBOX_DATA: z.string().min(1).optional(),
  JURYBOX_LOG_LEVEL: z.enum(logLevels).default('info'),
  /** Address that people's browsers use, where a proxy stands before the server. */
  JURYBOX_PUBLIC_URL: z.url({ protocol: /^https?$/, error: 'expected a URL such as https://audit.example' }).optional(),
  /** Addresses or prefixes of proxies whose `X-Forwarded-*` headers are believed, separated by commas. */
  JURYBOX_TRUSTED_PROXIES: z.string().optional(),
  /** Where alerts may be sent besides public addresses: host names, addresses and prefixes, separated by commas. */
  JURYBOX_ALERT_TARGETS: z.string().optional(),
  /** Password of the database account `jurybox_reader`, which reads the tables for other tools; without it, none. */
  JURYBOX_READER_PASSWORD: z
    .string()
    .regex(/^[\w-]{16,80}$/, 'expected 16 to 80 letters, digits, - and _')
    .optional(),
  /** Authority that stamps the time of evidence packs (RFC 3161). */
  JURYBOX_TIME_AUTHORITY: z
    .url({ protocol: /^https?$/, error: 'expected a URL such as https://time.example/tsa' })
    .optional(),
  /** The browser that prints reports. */
  JURYBOX_CHROMIUM: z.string().min(1).default('/usr/bin/chromium'),
  JURYBOX_SYSLOG_PORT: z.coerce.number().int().min(0).max(65_535).optional(),
  JURYBOX_SYSLOG_ADDRESS: z.string().default('127.0.0.1'),
  /** `1`: every response is checked against the contract of its route, for tests and development. */
  JURYBOX_CHECK_RESPONSES: z.enum(['0', '1']).default('0'),
})

export interface Settings {
  readonly port: number
  readonly dataFolder: string | null
  readonly logLevel: (typeof logLevels)[number]
  readonly publicUrl: URL | null
  readonly trustedProxies: readonly string[]
  readonly alertTargets: readonly string[]
  readonly checkResponses: boolean
  /** Null: there is no database account for other tools. */
  readonly readerPassword: string | null
  /** Null: time stamps are asked for by hand. */
  readonly timeAuthority: URL | null
  /** Path of the browser that prints reports. */
  readonly chromium: string
  readonly syslog: { readonly port: number; readonly address: string } | null
}

/**
 * What the environment and the command line set.
 * @throws Error that names the setting and what is expected
 */
export function settingsOf(environment: NodeJS.ProcessEnv, commandLine: readonly string[] = []): Settings {
  const at = commandLine.findIndex((word) => word === '--log-level' || word.startsWith('--log-level='))
  const level = commandLine[at]?.split('=')[1] ?? commandLine[at + 1]
  const read = settingsSchema.safeParse(at < 0 ? environment : { ...environment, JURYBOX_LOG_LEVEL: level })
  if (!read.success) {
    const [fault] = read.error.issues
    const name = at >= 0 && fault?.path[0] === 'JURYBOX_LOG_LEVEL' ? '--log-level' : String(fault?.path[0])
    throw new Error(`${name}: ${fault?.message}`)
  }
  const set = read.data
  return {
    port: set.JURYBOX_PORT,
    dataFolder: set.JURYBOX_DATA ?? null,
    logLevel: set.JURYBOX_LOG_LEVEL,
    publicUrl: set.JURYBOX_PUBLIC_URL === undefined ? null : new URL(set.JURYBOX_PUBLIC_URL),
    trustedProxies: listed(set.JURYBOX_TRUSTED_PROXIES),
    alertTargets: listed(set.JURYBOX_ALERT_TARGETS),
    readerPassword: set.JURYBOX_READER_PASSWORD ?? null,
    timeAuthority: set.JURYBOX_TIME_AUTHORITY === undefined ? null : new URL(set.JURYBOX_TIME_AUTHORITY),
    chromium: set.JURYBOX_CHROMIUM,
    checkResponses: set.JURYBOX_CHECK_RESPONSES === '1',
    syslog:
      set.JURYBOX_SYSLOG_PORT === undefined
        ? null
        : { port: set.JURYBOX_SYSLOG_PORT, address: set.JURYBOX_SYSLOG_ADDRESS },
  }
}

function listed(text: string | undefined): string[] {
  return (text ?? '')
    .split(',')
    .map((part) => part.trim())
    .filter((part) => part !== '')
}
