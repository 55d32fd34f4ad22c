import { init, type Bool, type Context } from 'z3-solver'

/**
 * A solver for the tests of a suite: its context, told when it is there, and whether some demands can be met together.
 */
export function useSolver<N extends string>(
  name: N,
  ready: (context: Context<N>) => void,
): (...wanted: Bool<N>[]) => Promise<boolean> {
  let context: Context<N>
  let end: () => void
  before(async () => {
    const api = await init()
    context = api.Context(name)
    ready(context)
    end = () => (api.em as { PThread: { terminateAllThreads(): void } }).PThread.terminateAllThreads()
  })
  after(() => end())
  return async (...wanted) => {
    const solver = new context.Solver()
    solver.add(...wanted)
    return (await solver.check()) === 'sat'
  }
}
