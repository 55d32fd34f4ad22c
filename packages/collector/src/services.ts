import { connect } from 'node:net'

/** Services that configurations switch on and off; common practice. */
const PORTS = [22, 23, 80, 443]

/**
 * What answers on an address, by one TCP connect a port, one after the other, each given up after some milliseconds.
 * Nothing is sent: a connection that is made is closed at once.
 * @returns JSON with `open`, `closed` or `silent` for each port
 */
export async function serviceRecord(
  host: string,
  timeout: number,
  ports: readonly number[] = PORTS,
  signal?: AbortSignal,
): Promise<string> {
  const services: { port: number; answer: 'open' | 'closed' | 'silent' }[] = []
  for (const port of ports) {
    if (signal?.aborted) break
    services.push({ port, answer: await answerOf(host, port, timeout) })
  }
  return JSON.stringify({ services }, null, 2)
}

/** Whether a port answers within some milliseconds: a connection that is made is closed at once. */
export async function answers(host: string, port: number, timeout: number): Promise<boolean> {
  return (await answerOf(host, port, timeout)) === 'open'
}

function answerOf(host: string, port: number, timeout: number): Promise<'open' | 'closed' | 'silent'> {
  return new Promise((resolve) => {
    const socket = connect({ host, port, timeout })
    const done = (answer: 'open' | 'closed' | 'silent') => (): void => {
      socket.destroy()
      resolve(answer)
    }
    socket.on('connect', done('open')).on('timeout', done('silent'))
    socket.on('error', (error: NodeJS.ErrnoException) => done(error.code === 'ECONNREFUSED' ? 'closed' : 'silent')())
  })
}
