// Runs in one network namespace: `listen PORT…` writes what arrives, `answer PORT…` answers it too, `send FILE` sends
// what a file lists
// and writes from where it was answered.
import { createSocket } from 'node:dgram'
import { readFileSync } from 'node:fs'

const [mode, ...rest] = process.argv.slice(2)
if (mode !== 'send') {
  let waiting = rest.length
  for (const port of rest.map(Number)) {
    const socket = createSocket('udp4')
    socket.on('message', (message, { address, port: from }) => {
      process.stdout.write(`${message.toString()} ${port}\n`)
      if (mode === 'answer') socket.send(message, from, address, () => undefined)
    })
    socket.bind(port, () => {
      if (--waiting === 0) process.stdout.write('ready\n')
    })
  }
} else {
  const packets = JSON.parse(readFileSync(rest[0], 'utf8'))
  const sockets = []
  for (const { id, destination, port } of packets) {
    const socket = createSocket('udp4')
    sockets.push(socket)
    socket.on('error', () => undefined)
    socket.on('message', (_, { address, port: from }) => process.stdout.write(`${id} ${address} ${from}\n`))
    // Each from a port of its own: each is the first packet of a connection.
    await new Promise((resolve) => socket.bind(20000 + id, resolve))
    await new Promise((resolve) => socket.send(String(id), port, destination, resolve))
  }
  await new Promise((resolve) => setTimeout(resolve, 300))
  for (const socket of sockets) socket.close()
}
