/** What an attack came to: how often something was tried, and what did not hold. */
export class AttackReport {
  readonly #parts: { readonly name: string; tried: number; readonly broken: string[]; ms: number }[] = []

  /** @param work is given a function that takes what was tried, and why it did not hold where it did not */
  async part(name: string, work: (tried: (what: string, why: string | null) => void) => Promise<void>): Promise<void> {
    const part = { name, tried: 0, broken: [] as string[], ms: 0 }
    this.#parts.push(part)
    const began = Date.now()
    await work((what, why) => {
      part.tried++
      if (why !== null) part.broken.push(`${what}: ${why}`)
    })
    part.ms = Date.now() - began
    const held = part.tried - part.broken.length
    console.log(
      `${name.padEnd(46)} ${String(part.tried).padStart(7)} tried ${String(held).padStart(7)} held   ` +
        `${Math.round(part.ms / 1000)} s`,
    )
    for (const broken of part.broken.slice(0, 20)) console.log(`  NOT HELD  ${broken}`)
    if (part.broken.length > 20) console.log(`  … and ${part.broken.length - 20} more`)
  }

  get tried(): number {
    return this.#parts.reduce((sum, { tried }) => sum + tried, 0)
  }

  get broken(): number {
    return this.#parts.reduce((sum, { broken }) => sum + broken.length, 0)
  }
}
