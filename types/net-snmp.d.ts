/** The parts of the package that are used here; it brings no types of its own. */
declare module 'net-snmp' {
  export interface Varbind {
    readonly oid: string
    readonly type: number
    readonly value: Buffer | number | string | bigint | null
  }
  export interface Session {
    get(oids: readonly string[], done: (error: Error | null, varbinds: readonly Varbind[]) => void): void
    subtree(
      oid: string,
      maxRepetitions: number,
      feed: (varbinds: readonly Varbind[]) => void,
      done: (error?: Error | null) => void,
    ): void
    close(): void
    on(event: 'error', listener: (error: Error) => void): void
  }
  export interface User {
    readonly name: string
    readonly level: number
    readonly authProtocol: string
    readonly authKey: string
    readonly privProtocol: string
    readonly privKey: string
  }
  export interface MibRequest {
    readonly instanceNode: { value: unknown }
    done(): void
  }
  export interface Provider {
    readonly name: string
    readonly type: number
    readonly oid: string
    readonly maxAccess: number
    readonly scalarType?: number
    readonly tableColumns?: readonly {
      readonly number: number
      readonly name: string
      readonly type: number
      readonly maxAccess: number
    }[]
    readonly tableIndex?: readonly { readonly columnName: string }[]
    readonly handler?: (request: MibRequest) => void
  }
  export interface Mib {
    registerProvider(provider: Provider): void
    setScalarValue(name: string, value: unknown): void
    addTableRow(name: string, row: readonly unknown[]): void
    setTableSingleCell(name: string, column: number, index: readonly unknown[], value: unknown): void
  }
  export interface Agent {
    getMib(): Mib
    getAuthorizer(): { addUser(user: User): void }
    readonly listener: { readonly sockets: Readonly<Record<string, import('node:dgram').Socket>> }
    close(done?: () => void): void
  }
  const snmp: {
    readonly Version3: number
    readonly SecurityLevel: { readonly authPriv: number }
    readonly AuthProtocols: { readonly sha256: string }
    readonly PrivProtocols: { readonly aes: string }
    readonly MibProviderType: { readonly Scalar: number; readonly Table: number }
    readonly ObjectType: {
      readonly Integer: number
      readonly OctetString: number
      readonly OID: number
      readonly TimeTicks: number
      readonly Counter: number
      readonly Gauge: number
    }
    readonly MaxAccess: { readonly 'not-accessible': number; readonly 'read-only': number }
    isVarbindError(varbind: Varbind): boolean
    createV3Session(
      target: string,
      user: User,
      options: {
        readonly port: number
        readonly timeout: number
        readonly retries: number
        readonly version: number
        readonly transport: 'udp4' | 'udp6'
      },
    ): Session
    createAgent(
      options: { readonly port: number; readonly address: string; readonly disableAuthorization: boolean },
      done: (error: Error | null) => void,
    ): Agent
  }
  export default snmp
}
