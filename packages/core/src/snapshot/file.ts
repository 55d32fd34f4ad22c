export interface SnapshotFile {
  readonly path: string
  readonly bytes: Uint8Array
}

export interface Refusal {
  readonly path: string
  readonly reason: string
}
