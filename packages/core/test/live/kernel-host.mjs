// Runs in one network namespace: `listen PORT…` writes what arrives, `send FILE` sends what a file lists.
import { createSocket } from 'node:dgram'
import { readFileSync } from 'node:fs'

const [mode, ...rest] = process.argv.slice(2)
if (mode === 'listen') {
  let waiting = rest.length
  for (const port of rest.map(Number)) {
    const socket = createSocket('udp4')
    socket.on('message', (message) => process.stdout.write(`${message.toString()} ${port}\n`))
    socket.bind(port, () => {
      if (--waiting === 0) process.stdout.write('ready\n')
    })
  }
} else {
  const packets = JSON.parse(readFileSync(rest[0], 'utf8'))
  for (const { id, destination, port } of packets) {
    const socket = createSocket('udp4')
    socket.on('error', () => undefined)
    // Each from a port of its own: each is the first packet of a connection.
    await new Promise((resolve) => socket.bind(20000 + id, resolve))
    await new Promise((resolve) => socket.send(String(id), port, destination, resolve))
    socket.close()
  }
}
