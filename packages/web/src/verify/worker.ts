import { FAULT_WORDS, readPack, verifyPackBytes, type Verification } from '@jurybox/core/evidence'

export interface VerifyTask {
  readonly pack: ArrayBuffer
  readonly previous: ArrayBuffer | null
  readonly key: string | null
}
export interface Verified {
  readonly verification: Verification
  /** What each fault means: the page does not carry the core itself. */
  readonly words: typeof FAULT_WORDS
}
export type VerifyAnswer = Verified | { readonly error: string }

/** Verifies beside the page, so that it stays alive. */
self.onmessage = ({ data: { pack, previous, key } }: MessageEvent<VerifyTask>) => {
  try {
    const before = previous && readPack(new Uint8Array(previous))
    const answer: VerifyAnswer = {
      verification: verifyPackBytes(new Uint8Array(pack), { key, previous: before }),
      words: FAULT_WORDS,
    }
    self.postMessage(answer)
  } catch (error) {
    const failed: VerifyAnswer = { error: error instanceof Error ? error.message : String(error) }
    self.postMessage(failed)
  }
}
