import {
  NO_NODES,
  PhysicalLines,
  addChild,
  type GrowingNode,
  type Fault,
  type LocatedTree,
  type NodeKind,
} from '../../syntax/located-tree.ts'
import { commandFrom } from '../../syntax/command-from.ts'
import { openFreeText } from './free-text.ts'
import { factsOf, knowledge, type LineFacts } from './lines.ts'
import { GLOBAL, blockByKind } from './vocabulary.ts'
import { withoutTail } from '../../syntax/tail.ts'

const SPACE = 32
const TAB = 9
const BANG = 33

/** `name#command` or `name(config)>`: a prompt left in a captured session. */
const PROMPT = /^[A-Za-z][\w.:/@-]*(?:\([\w./:-]*\))?[#>](?: ?(.*))?$/
const LISTING_COMMAND = /^(?:do )?(?:sh(?:o|ow)?|more|type|write term)\b.*\b(?:run\S*|start\S*|conf\S*|term\S*)/i
const OTHER_COMMAND =
  /^(?:do )?(?:sh|sho|show|dir|ping|traceroute|terminal|term|exit|logout|en|enable|copy|wr|write|conf|configure)\b/i
const HEADER =
  /^(?:Building configuration|Current configuration\s*:|Using \d+ out of \d+ bytes|Startup configuration\s*:|Load for |Time source is |Last configuration change|Command: show|Enter configuration commands)/i
const STATED_SIZE = /^Current configuration\s*:\s*(\d+)\s*bytes/i
/** What a device prints before a listing. */
const ANNOUNCES = /^(?:Building configuration|Current configuration\s*:|Startup configuration\s*:)/i
const PAGING = /-{1,3}\s?\(?more\)?[^-]*-{1,3}|<-+ ?more ?-+>/i

/** Deeper nesting than any device prints; hostile input goes no deeper than this. */
const MAX_DEPTH = 32

interface Open {
  readonly node: GrowingNode
  readonly indent: number
}

/**
 * Reads a listing of the indented dialect. Never throws; takes time linear in the length of the text. What the reader
 * cannot place stays in the tree (as a frame, or listed in `unread`).
 */
export function readIndented(text: string): LocatedTree {
  return new IndentedReader(text).read()
}

class IndentedReader {
  readonly #lines: PhysicalLines
  readonly #paged: boolean
  /** No command in the text is indented: children can only be told by what they say. */
  readonly #flatText: boolean
  readonly #top: GrowingNode[] = []
  readonly #faults: Fault[] = []
  readonly #unread: number[] = []
  /** Blocks open by indentation, innermost last. */
  #open: Open[] = []
  /** Blocks whose children stand at the same indentation as the opener itself, innermost last. */
  #flat: Open[] = []
  #last: GrowingNode | null = null
  #hostname: string | null = null
  #statedSize: { line: number; bytes: number } | null = null
  #ended = false
  /** Line of the header by which a device announces a listing. */
  #announced: number | null = null
  /** Inside the output of a command other than the listing. */
  #elsewhere = false

  constructor(text: string) {
    this.#lines = new PhysicalLines(text)
    this.#paged = text.includes('\b') || (/more/i.test(text) && PAGING.test(text))
    this.#flatText = !/^[ \t]+[a-z]/im.test(text)
  }

  read(): LocatedTree {
    const lines = this.#lines
    for (let at = 0; at < lines.length; at++) at = this.#readLine(at)
    const stated = this.#statedSize
    // A listing that announces its size and stops before it, without its closing `end`, was cut off on the way.
    if (stated && !this.#ended && lines.text.length < stated.bytes) {
      this.#faults.push({
        line: lines.length,
        reason: `the listing announces ${stated.bytes} bytes on line ${stated.line} and stops short of them without "end"`,
      })
    }
    // A listing that says at its beginning what it is ends by "end", always.
    else if (this.#announced !== null && !this.#ended && lines.length > this.#announced) {
      this.#faults.push({
        line: lines.length,
        reason: `the listing that begins on line ${this.#announced} stops without "end"`,
      })
    }
    return {
      dialect: 'indented',
      lines,
      nodes: this.#top,
      faults: this.#faults,
      unread: this.#unread,
      hostname: this.#hostname,
    }
  }

  /** Reads the line at index `at` and returns the index of the last line consumed. */
  #readLine(at: number): number {
    const { text } = this.#lines
    const from = this.#lines.starts[at] ?? 0
    const to = this.#lines.endOf(at)
    if (this.#paged) {
      const raw = text.slice(from, to)
      if (raw.includes('\b') || PAGING.test(raw)) {
        const shown = this.#withoutPaging(raw, at)
        if (shown.trim() !== '') return this.#readText(shown, 0, shown.length, at)
        this.#aside('frame', raw.trim(), at)
        return at
      }
    }
    return this.#readText(text, from, to, at)
  }

  /** Reads the line at index `at`, which stands in `text` from `from` to before `to`. */
  #readText(text: string, from: number, to: number, at: number): number {
    let indent = 0
    for (; from < to; from++) {
      const code = text.charCodeAt(from)
      if (code === SPACE) indent++
      else if (code === TAB) indent = (indent >> 3) * 8 + 8
      else if (code !== 0xfeff && code !== 0xa0) break
    }
    while (to > from && isSpace(text.charCodeAt(to - 1))) to--
    if (from === to) {
      this.#aside('separator', '', at)
      return at
    }
    if (text.charCodeAt(from) === BANG) {
      if (to - from === 1) this.#flat = []
      this.#aside(to - from === 1 ? 'separator' : 'comment', to - from === 1 ? '!' : text.slice(from, to), at)
      return at
    }
    const facts = factsOf(text.slice(from, to))
    if (!facts.plain && this.#readFrame(facts.text, at)) return at
    if (this.#elsewhere) {
      this.#aside('frame', facts.text, at)
      return at
    }
    if (facts.closes) {
      this.#readCloser(facts.text.toLowerCase(), indent, at)
      return at
    }
    return this.#readCommand(facts, indent, at)
  }

  /** Prompts, echoes, headers, error lines. Returns whether the line was one. */
  #readFrame(text: string, at: number): boolean {
    const prompt = PROMPT.exec(text)
    const typed = prompt ? (prompt[1] ?? '').trim() : OTHER_COMMAND.test(text) && /^sh/i.test(text) ? text : null
    if (typed !== null) {
      this.#closeAll()
      this.#aside('frame', text, at)
      if (LISTING_COMMAND.test(typed)) this.#elsewhere = false
      else if (typed !== '' && !/^(?:en|enable|term|terminal|conf|configure|exit|end)\b/i.test(typed)) {
        this.#elsewhere = true
        if (!OTHER_COMMAND.test(typed)) this.#unread.push(at + 1)
      }
      return true
    }
    if (HEADER.test(text)) {
      const size = STATED_SIZE.exec(text)
      if (ANNOUNCES.test(text)) this.#announced ??= at + 1
      if (size) this.#statedSize = { line: at + 1, bytes: Number(size[1]) }
      this.#aside('frame', text, at)
      return true
    }
    if (text.startsWith('%') || text === '^') {
      this.#aside('frame', text, at)
      if (text !== '^')
        this.#faults.push({ line: at + 1, reason: `the device answered with an error: ${text.slice(0, 80)}` })
      return true
    }
    return false
  }

  #readCloser(text: string, indent: number, at: number): void {
    this.#aside('separator', text, at)
    if (text === 'end') {
      this.#ended = true
      this.#closeAll()
      return
    }
    const flat = this.#flat.pop()
    // Where children stand beside their opener, `exit` closes the innermost opener; elsewhere, what is indented deeper.
    if (flat && this.#flatChildren.has(flat.node)) return
    while ((this.#open.at(-1)?.indent ?? -1) >= indent) this.#open.pop()
  }

  #readCommand(facts: LineFacts, indent: number, at: number): number {
    const { text, opened } = facts
    const parent = this.#parentOf(text, indent)
    const free = facts.mayOpenFreeText ? openFreeText(text, parent?.text ?? null, this.#lines, at) : null
    const within = facts.within(parent?.block)
    const node: GrowingNode = {
      kind: 'command',
      text,
      line: at + 1,
      lastLine: (free?.last ?? at) + 1,
      parent,
      children: NO_NODES,
      block: opened?.kind,
      command: free ? commandFrom(text, parent?.block, opened?.kind, true, knowledge) : within.command,
      body: free?.body,
    }
    this.#add(node, parent)
    this.#last = node
    if (free) {
      if (!free.closed)
        this.#faults.push({
          line: at + 1,
          reason: `the ${free.what} opened here is not closed: everything after it is read as its text`,
        })
    } else {
      if (this.#open.length < MAX_DEPTH) this.#open.push({ node, indent })
      if (opened && this.#flat.length < MAX_DEPTH) this.#flat.push({ node, indent })
    }
    const understood =
      parent === null || parent.block !== undefined
        ? within.understood
        : parent.parent !== null && parent.parent.block !== undefined
    if (!understood) this.#unread.push(at + 1)
    if (parent === null && text.startsWith('hostname '))
      this.#hostname =
        text
          .slice(9)
          .trim()
          .replace(/^"(.*)"$/, '$1') || null
    return free?.last ?? at
  }

  #parentOf(text: string, indent: number): GrowingNode | null {
    let top = this.#open.at(-1)
    while (top && top.indent >= indent) {
      this.#open.pop()
      top = this.#open.at(-1)
    }
    let flat = this.#flat.at(-1)
    // A block whose children are indented is closed by indentation; one whose children are not, by what they say.
    while (flat && (flat.indent > indent || (flat.indent === indent && !this.#isFlatChild(flat.node, text)))) {
      this.#flat.pop()
      flat = this.#flat.at(-1)
    }
    if (flat && flat.indent === indent && flat.node !== top?.node) return flat.node
    return top?.node ?? null
  }

  #isFlatChild(opener: GrowingNode, text: string): boolean {
    if (opener.children.some((child) => child.kind === 'command') && !this.#flatText && !this.#flatChildren.has(opener))
      return false
    const kind = opener.block === undefined ? undefined : blockByKind.get(opener.block)
    const bare = /^(?:no |default )/i.test(text) ? text.replace(/^\S+ /, '') : text
    const own = kind?.children.has(kind.ordered ? bare.replace(/^\d+ /, '') : bare) ?? false
    const child = own && !isPlainlyGlobal(bare) ? true : this.#flatText && !GLOBAL.has(bare)
    if (child) this.#flatChildren.add(opener)
    return child
  }

  /** Openers found to have children at their own indentation. */
  readonly #flatChildren = new Set<GrowingNode>()

  #closeAll(): void {
    this.#open = []
    this.#flat = []
    this.#last = null
  }

  /** Adds what is no command beneath the last command, so that nodes stay in the order of their lines. */
  #aside(kind: NodeKind, text: string, at: number): void {
    const parent = this.#last
    this.#add(
      {
        kind,
        text,
        line: at + 1,
        lastLine: at + 1,
        parent,
        children: NO_NODES,
        block: undefined,
        command: null,
        body: undefined,
      },
      parent,
    )
  }

  #add(node: GrowingNode, parent: GrowingNode | null): void {
    if (parent) addChild(parent, node)
    else this.#top.push(node)
  }

  /** What the terminal showed after the paging prompt was wiped by backspaces or a carriage return. */
  #withoutPaging(raw: string, at: number): string {
    if (PAGING.test(raw))
      this.#faults.push({
        line: at + 1,
        reason: 'a paging prompt was captured with the listing: lines may be missing here',
      })
    const shown: string[] = []
    for (const char of withoutTail(raw, /[\r\n]/).replace(PAGING, (found) => ' '.repeat(found.length))) {
      if (char === '\b') shown.pop()
      else if (char === '\r') shown.length = 0
      else shown.push(char)
    }
    return shown.join('')
  }
}

/** Space, tab, line ends, no-break space: what `trim` takes away at the end of a line. */
function isSpace(code: number): boolean {
  return (
    code === SPACE ||
    (code >= 9 && code <= 13) ||
    code === 0xa0 ||
    code === 0xfeff ||
    (code > 0x1000 && /\s/.test(String.fromCharCode(code)))
  )
}

/** Commands of the top level that share a first word with children of some block. */
function isPlainlyGlobal(text: string): boolean {
  return /^(?:ip (?:route|http|ssh|domain|name-server|access-list|prefix-list|routing|cef|forward-protocol|classless|subnet-zero|source-route|bootp|dhcp (?:pool|snooping(?! (?:trust|limit))|excluded-address|bootp)|rcmd|sla|vrf \S+$|host|scp|tftp|ftp|tacacs|radius|nat (?:inside source|outside source|pool|translation)|multicast-routing|as-path|community-list|local|finger|identd|default-gateway|device)|ipv6 (?:unicast-routing|route|access-list|cef|router|prefix-list|source-route|dhcp pool)|logging (?!synchronous|event)|login (?:block-for|on-|quiet-mode|delay)|snmp-server|service |banner|aaa |username|enable |line |interface |router |ntp (?!disable|broadcast|multicast)|vrf (?:definition|context) |vlan |spanning-tree (?:mode|extend|mst|vlan|portfast (?:default|bpduguard|edge))|crypto (?!map \S+$|ipsec df-bit)|access-list|route-map|class-map|policy-map|key |archive|tacacs|radius|privilege (?:exec|configure)|hostname|version|clock|cdp run|lldp run|mac |arp (?!timeout)|errdisable|errordisable|alias|boot|license|end|monitor session|mls qos$|no )/i.test(
    text,
  )
}
