import type { ServerChannel } from 'ssh2'
import type { SimulatedDevice } from './device.ts'
import { editingOf, type Editing } from './editing.ts'

const PAGE = 24
const MORE = '-- more lines follow --'

/** One session on a device: a prompt, echo, paging, more rights for whoever knows the word, and answers. */
export class Shell {
  #line = ''
  #rows = PAGE
  #privileged: boolean
  /** Waits for a secret instead of a command. */
  #asking: ((secret: string) => void) | null = null
  /** Configuration mode; null outside. */
  #editing: Editing | null = null
  /** The configuration when it was entered. */
  #before = ''
  /** What is left of an answer that is shown page by page. */
  #pages: string[] | null = null
  #busy: Promise<void> = Promise.resolve()
  #closed = false

  constructor(
    readonly device: SimulatedDevice,
    readonly channel: ServerChannel,
    readonly user: string,
  ) {
    this.#privileged = device.privilege === null
    channel.on('data', (data: Buffer) => {
      // One key after the other: what is typed during an answer waits for its end.
      for (const key of data.toString('utf8')) this.#busy = this.#busy.then(() => this.#key(key))
    })
    channel.on('close', () => {
      this.#closed = true
      this.#leave()
    })
    void this.#say(`${device.banner}\r\n${this.#prompt}`)
  }

  get #prompt(): string {
    const { session, name } = this.device
    if (session?.prompt !== 'levels') return `${this.user}@${name}${this.#editing ? '# ' : '> '}`
    if (this.#editing) return `${name}(config${this.#editing.place === '' ? '' : `-${this.#editing.place}`})#`
    return `${name}${this.#privileged ? '#' : '>'}`
  }

  async #key(key: string): Promise<void> {
    if (this.#closed) return
    if (this.#pages) return this.#turn(key)
    if (key === '\r' || key === '\n') {
      const line = this.#line
      this.#line = ''
      await this.#say('\r\n')
      if (this.#asking) {
        const asking = this.#asking
        this.#asking = null
        asking(line)
        return this.#say(this.#prompt)
      }
      return this.#editing ? this.#type(line, this.#editing) : this.#run(line.trim())
    }
    if (key === '\u0003' || key === '\u0015') {
      this.#line = ''
      return this.#say(`\r\n${this.#prompt}`)
    }
    if (key === '\b' || key === '\u007f') {
      if (this.#line.length > 0 && !this.#asking) await this.#say('\b \b')
      this.#line = this.#line.slice(0, -1)
      return
    }
    this.#line += key
    if (!this.#asking) await this.#say(key)
  }

  async #run(line: string): Promise<void> {
    const words = line.toLowerCase().split(/\s+/)
    if (line === '') return this.#say(this.#prompt)
    if (['exit', 'quit', 'logout'].includes(line)) {
      this.channel.exit(0)
      this.channel.end()
      return
    }
    if (words[0] === 'terminal') {
      if (words[1] === 'length' && /^\d+$/.test(words[2] ?? '')) this.#rows = Number(words[2])
      return this.#say(this.#prompt)
    }
    if (words[0] === 'enable' && this.device.privilege !== null) {
      this.#asking = (secret) => {
        if (secret === this.device.privilege) this.#privileged = true
        else void this.#say('! That is not the word.\r\n')
      }
      return this.#say('Password: ')
    }
    if (words[0] === 'configure' && this.device.isTypedAt) {
      if (!this.#privileged) return this.#say(`! Not allowed without more rights: "${line}"\r\n${this.#prompt}`)
      this.#before = this.device.record('config') ?? ''
      this.#editing = editingOf(this.#before, this.device.dialect)
      return this.#say(this.#prompt)
    }
    if (this.device.session?.configuring?.holds === 'at once' && this.#privileged) {
      if (line === 'copy running-config startup-config') {
        this.device.save()
        return this.#say(`Saved.\r\n${this.#prompt}`)
      }
      if (line === 'reload') return this.device.reload(this.user)
    }
    const answer = this.device.answer(line, this.#privileged)
    if (answer === null) return this.#say(`! Not understood: "${line}"\r\n${this.#prompt}`)
    if (answer === false) return this.#say(`! Not allowed without more rights: "${line}"\r\n${this.#prompt}`)
    return this.#show(answer)
  }

  /** A line in configuration mode: in the indented form it holds at once, elsewhere when it is committed. */
  async #type(line: string, editing: Editing): Promise<void> {
    const word = line.trim()
    const indented = this.device.session?.configuring?.holds === 'at once'
    if (word === '') return this.#say(this.#prompt)
    if (word === 'end' || word === '\u001a' || (word === 'exit' && !editing.leave())) {
      this.#leave()
      return this.#say(this.#prompt)
    }
    if (word === 'exit') return this.#say(this.#prompt)
    if (!indented) {
      const [verb, confirmed, seconds] = word.split(/\s+/)
      if (verb === 'show') return this.#show(editing.text)
      if (verb === 'rollback') {
        this.#editing = editingOf(this.device.previous ?? editing.text, this.device.dialect)
        return this.#say(this.#prompt)
      }
      if (verb === 'commit') {
        if (confirmed !== undefined && (confirmed !== 'confirmed' || !/^\d{1,5}$/.test(seconds ?? '')))
          return this.#say(`! Not understood: "${word}"\r\n${this.#prompt}`)
        if (this.device.lockedBy !== null) return this.#say(`! Another session holds the lock\r\n${this.#prompt}`)
        const refused = this.device.commit(
          editing.text,
          this.user,
          confirmed === undefined ? undefined : Number(seconds),
        )
        return this.#say(`${refused === null ? 'Committed.' : `! Not committed: ${refused}`}\r\n${this.#prompt}`)
      }
    }
    const entered = editing.enter(line)
    if (!entered.ok) return this.#say(`! ${entered.why}\r\n${this.#prompt}`)
    if (indented) this.device.set('config', editing.text)
    return this.#say(this.#prompt)
  }

  /** What was typed in the indented form held at once; whoever listens is told of it now. */
  #leave(): void {
    if (this.device.session?.configuring?.holds === 'at once' && this.#editing && this.#editing.text !== this.#before)
      this.device.changedFrom(this.#before, this.user)
    this.#editing = null
  }

  async #show(answer: string): Promise<void> {
    const lines = answer.replace(/\r?\n$/, '').split(/\r?\n/)
    if (this.#rows === 0 || lines.length <= this.#rows) {
      await this.#say(lines.map((line) => `${line}\r\n`).join(''), true)
      return this.#say(this.#prompt)
    }
    this.#pages = lines
    return this.#turn(' ')
  }

  async #turn(key: string): Promise<void> {
    const lines = this.#pages ?? []
    if (key === 'q') {
      this.#pages = null
      return this.#say(`\r${' '.repeat(MORE.length)}\r${this.#prompt}`)
    }
    const page = lines.splice(0, key === ' ' ? this.#rows : 1)
    await this.#say(`\r${' '.repeat(MORE.length)}\r${page.map((line) => `${line}\r\n`).join('')}`, true)
    if (lines.length > 0) return this.#say(MORE)
    this.#pages = null
    return this.#say(this.#prompt)
  }

  /** @param answer whether it is part of an answer, which the weather acts upon */
  async #say(text: string, answer = false): Promise<void> {
    const { weather } = this.device
    if (!answer) return void this.channel.write(text)
    if (weather.dropAfter !== undefined && text.length > weather.dropAfter) {
      this.channel.write(text.slice(0, weather.dropAfter))
      await pause(20)
      this.device.hangUp()
      return
    }
    const shown = weather.garbles ? text.replace(/(.{97})/gs, '$1\u0007\u001b[5n') : text
    for (let from = 0; from < shown.length && !this.#closed; from += 4096) {
      if (weather.slow) await pause(weather.slow)
      if (!this.channel.write(shown.slice(from, from + 4096)))
        await new Promise<void>((resolve) => this.channel.once('drain', resolve).once('close', resolve))
    }
    while (weather.endless && !this.#closed) {
      if (!this.channel.write(`${shown.slice(0, 4096)}\r\n`))
        await new Promise<void>((resolve) => this.channel.once('drain', resolve).once('close', resolve))
      await pause(1)
    }
  }
}

export function pause(ms: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, ms))
}
