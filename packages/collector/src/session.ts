import type { Client, ClientChannel } from 'ssh2'
import { StepError, type Step } from './ladder.ts'
import { withoutTail } from '@jurybox/core/syntax'

/** Bounds of one session. */
export interface SessionLimits {
  /** Milliseconds without a character before a device counts as silent. */
  readonly silence: number
  /** Most characters of one answer. */
  readonly answer: number
}

/** A line that ends as prompts do and is not ended itself. */
const PROMPT = /[>#$%] ?$/
/** A question whether there shall be more, in whatever words, on a line that is not ended. */
const MORE = /^[ \t]*[-<(]+ ?more\b.*$/i
/** Characters in which the last line is looked for. */
const TAIL = 2000
/** How long a line that may be a prompt has to stand still. */
const STILL_MS = 60

/** One session with a prompt. Commands go one after the other; each answer comes without echo, prompt and paging. */
export class ShellSession {
  #text = ''
  #ended = false
  #wake: () => void = () => undefined
  /** What the prompt begins with; what follows changes with the rights. */
  #host = ''

  private constructor(
    readonly channel: ClientChannel,
    readonly limits: SessionLimits,
  ) {
    const hear = (data: Buffer): void => {
      this.#text += data.toString('utf8')
      // A device that says more than it may is not listened to: the window closes, and what came is enough to say so.
      if (this.#text.length > this.limits.answer) channel.pause()
      this.#wake()
    }
    channel.on('data', hear)
    channel.stderr.on('data', hear)
    channel.on('close', () => {
      this.#ended = true
      this.#wake()
    })
  }

  static async open(client: Client, limits: SessionLimits): Promise<ShellSession> {
    const session = await new Promise<ShellSession>((resolve, reject) =>
      client.shell({ term: 'dumb', cols: 512, rows: 1000 }, (error, channel) =>
        error
          ? reject(new StepError('command', `no session was opened: ${error.message}`, true))
          : resolve(new ShellSession(channel, limits)),
      ),
    )
    await session.#until((line) => PROMPT.test(line), 'command', 'no prompt came after the login')
    session.#host = /[A-Za-z0-9][\w.@-]*/.exec(session.prompt)?.[0] ?? ''
    return session
  }

  get prompt(): string {
    return this.#lastLine.trim()
  }

  /** What a command prints. @throws StepError where the answer does not come to its end */
  async run(command: string): Promise<string> {
    this.#text = ''
    this.channel.write(`${command}\n`)
    await this.#until((line) => this.#isPrompt(line), 'listing', `“${command}” did not come to its end`)
    const answer = cleaned(this.#text)
    return withoutEcho(answer.slice(0, answer.lastIndexOf('\n') + 1), command)
  }

  /** Types a command that asks for a secret, and the secret. True where the prompt then shows `many`. */
  async rights(command: string, asks: string, secret: string, many: string): Promise<boolean> {
    this.#text = ''
    this.channel.write(`${command}\n`)
    const isAsked = (line: string): boolean => line.toLowerCase().includes(asks)
    await this.#until((line) => isAsked(line) || this.#isPrompt(line), 'privilege', `“${command}” was not answered`)
    if (isAsked(this.#lastLine)) {
      this.#text = ''
      this.channel.write(`${secret}\n`)
      await this.#until((line) => this.#isPrompt(line) || isAsked(line), 'privilege', 'no reply to the enable password')
    }
    return this.prompt.endsWith(many)
  }

  #isPrompt(line: string): boolean {
    return PROMPT.test(line) && (this.#host === '' || line.trimStart().startsWith(this.#host))
  }

  get #lastLine(): string {
    const tail = cleaned(this.#text.slice(-TAIL))
    return tail.slice(tail.lastIndexOf('\n') + 1)
  }

  /** Waits until the last line is as it must be, and stands still; turns pages on the way. */
  async #until(ends: (line: string) => boolean, step: Step, what: string): Promise<void> {
    for (;;) {
      if (this.#text.length > this.limits.answer)
        throw new StepError('listing', `${what}: more than ${this.limits.answer} characters came`, false)
      const seen = this.#text.length
      const line = this.#lastLine
      const paging = MORE.test(line)
      if (paging) {
        // The page mark goes before the next page comes: it wipes what is not there any more.
        this.#text = this.#text.slice(0, this.#text.lastIndexOf('\n') + 1)
        this.channel.write(' ')
      }
      const still = !paging && ends(line)
      const moved = await this.#more(still ? STILL_MS : this.limits.silence, paging ? this.#text.length : seen)
      if (still && !moved) return
      if (this.#ended && !moved)
        throw new StepError(
          step,
          `${what}: the device closed the connection after ${this.#text.length} characters`,
          true,
        )
      if (!moved) throw new StepError(step, `${what}: nothing came for ${this.limits.silence / 1000} s`, true)
    }
  }

  /** Whether more came within some milliseconds. */
  async #more(ms: number, seen: number): Promise<boolean> {
    if (this.#text.length > seen) return true
    if (this.#ended) return false
    await new Promise<void>((resolve) => {
      const timer = setTimeout(resolve, ms)
      this.#wake = () => {
        clearTimeout(timer)
        resolve()
      }
    })
    return this.#text.length > seen
  }
}

/** Control sequences of terminals (ECMA-48 §5.4), and characters that print nothing. */
const CONTROL = /\u001b\[[0-?]*[ -/]*[@-~]|\u001b[@-Z\\-_]|[\u0000-\u0007\u000b\u000c\u000e-\u001a\u001c-\u001f\u007f]/g

/** As it would stand on paper: what was wiped out by going back over it is gone. */
export function cleaned(text: string): string {
  const plain = text
    .replace(CONTROL, '')
    .split('\n')
    .map((line, i, all) => (i < all.length - 1 ? withoutTail(line, /\r/) : line))
    .join('\n')
  return plain.includes('\r') || plain.includes('\b') ? plain.split('\n').map(overwritten).join('\n') : plain
}

function overwritten(line: string): string {
  if (!line.includes('\r') && !line.includes('\b')) return line
  const shown: string[] = []
  let column = 0
  for (const char of line) {
    if (char === '\r') column = 0
    else if (char === '\b') column = Math.max(0, column - 1)
    else shown[column++] = char
  }
  // The blanks that wiped a page mark out are no part of the line.
  return Array.from(shown, (char) => char ?? ' ')
    .join('')
    .trimEnd()
}

function withoutEcho(answer: string, command: string): string {
  const first = answer.indexOf('\n')
  return first >= 0 && answer.slice(0, first).trim().endsWith(command) ? answer.slice(first + 1) : answer
}

/** What a command prints on a channel of its own. @throws StepError where it fails or does not come to its end */
export function execute(client: Client, command: string, limits: SessionLimits): Promise<string> {
  return new Promise((resolve, reject) => {
    client.exec(command, (error, channel) => {
      if (error) return reject(new StepError('command', `“${command}” was not taken: ${error.message}`, true))
      // All is listened for at once: a short answer comes in one piece with its end.
      let [out, err] = ['', '']
      let code: number | null = null
      const fail = (why: string, again: boolean): void => {
        clearTimeout(timer)
        reject(new StepError('listing', `“${command}” did not come to its end: ${why}`, again))
        channel.destroy()
      }
      const late = (): void => fail(`nothing came for ${limits.silence / 1000} s`, true)
      let timer = setTimeout(late, limits.silence)
      const hear =
        (add: (text: string) => void) =>
        (data: Buffer): void => {
          clearTimeout(timer)
          timer = setTimeout(late, limits.silence)
          add(data.toString('utf8'))
          if (out.length + err.length > limits.answer) fail(`more than ${limits.answer} characters came`, false)
        }
      channel.on(
        'data',
        hear((text) => (out += text)),
      )
      channel.stderr.on(
        'data',
        hear((text) => (err += text)),
      )
      channel.on('exit', (status: number | null) => (code = status))
      channel.on('close', () => {
        clearTimeout(timer)
        if (code === 0) resolve(out)
        else if (code === null) fail(`the device closed the connection after ${out.length} characters`, true)
        else
          reject(
            new StepError(
              'command',
              `“${command}” was refused: ${(err || out).split('\n')[0]?.slice(0, 200) ?? ''}`,
              false,
            ),
          )
      })
    })
  })
}
