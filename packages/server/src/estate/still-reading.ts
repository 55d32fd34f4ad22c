import { Problem } from '../http/problem.ts'

/** How far the reading of an estate is, or the answering of a question about it. */
export interface Reading {
  readonly done: number
  readonly total: number
  /** What is counted, where it is not devices that are read. */
  readonly of?: string | undefined
}

/** The estate is still being read. */
export class StillReading extends Problem {
  constructor(readonly reading: Reading) {
    super(
      202,
      reading.of === undefined
        ? `The estate is being parsed: ${reading.done} of ${reading.total} devices`
        : `The question is being answered: ${reading.done} of ${reading.total} ${reading.of}`,
      { reading },
    )
  }
}

/**
 * Waits for a reading for as long as there is patience; the reading goes on.
 * @param patience milliseconds
 * @throws StillReading where it takes longer
 */
export async function waitFor(
  { work, state }: { readonly work: Promise<void>; readonly state: Reading },
  patience: number,
): Promise<void> {
  let timer: NodeJS.Timeout | undefined
  const late = new Promise<true>((resolve) => (timer = setTimeout(() => resolve(true), patience)))
  try {
    if (await Promise.race([work.then(() => false), late])) throw new StillReading({ ...state })
  } finally {
    clearTimeout(timer)
  }
}
