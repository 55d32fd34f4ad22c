import { FAMILIES, type Family } from '../../model/index.ts'
import { NOTHING, type ListVerdict, type ModelList } from '../../headers/index.ts'
import { LIST_AFTER_UNWRAPPING } from './compiled.ts'
import { exhibitsOf, type Exhibit } from '../network/exhibit.ts'
import type { PassageRun } from './passage-run.ts'
import type { Branch } from './branch.ts'
import type { MatchContext } from '../../headers/index.ts'

/** The stages at which packets meet lists: on interfaces, on terminal lines, for the device itself. */
export class ListFilters {
  constructor(readonly run: PassageRun) {}

  interfaceFilter(direction: 'in' | 'out', branch: Branch): Branch[] {
    const port = direction === 'in' ? branch.inInterface : branch.outInterface
    return FAMILIES.flatMap((family) => {
      const name = port < 0 || branch.local ? null : this.run.compiled.interfaceList(port, direction, family)
      const set = this.run.headers.diagrams.and(branch.set, this.run.headers.family(family))
      if (set === NOTHING) return []
      if (name === null) return [{ ...branch, set }]
      // What a map on the interface has unwrapped meets the list of the interface once more, or does not: that differs
      // between versions.
      const again = direction === 'in' && this.run.unwrapped ? this.run.compiled.listAfterUnwrapping : true
      if (again === false) return [{ ...branch, set }]
      return again === null
        ? this.#perhapsListed(name, family, { ...branch, set })
        : this.listStage(name, family, `filter ${direction}`, { ...branch, set })
    })
  }

  /** Packets of which it is not known whether they meet a list: what it would stop is undecided. */
  #perhapsListed(name: string, family: Family, branch: Branch): Branch[] {
    const list = this.run.compiled.lists.list(name, family)
    const { diagrams } = this.run.headers
    const stopped = list ? this.run.compiled.lists.decide(list, branch.set, this.run.context(branch)).denied : NOTHING
    if (stopped !== NOTHING)
      this.run.end(
        'undecided',
        {
          code: 'not-evaluated',
          words: `whether unwrapped packets meet ${name} again is not stated (label ${LIST_AFTER_UNWRAPPING})`,
        },
        { ...branch, set: stopped },
      )
    const passed = diagrams.minus(branch.set, stopped)
    return passed === NOTHING ? [] : [{ ...branch, set: passed }]
  }

  /** The packets of a family through a list; all of them where the device has none of that name. */
  listStage(name: string, family: Family, stage: string, branch: Branch): Branch[] {
    const { diagrams } = this.run.headers
    const set = diagrams.and(branch.set, this.run.headers.family(family))
    if (set === NOTHING) return []
    const list = this.run.compiled.lists.list(name, family)
    if (!list) {
      if (stage === name) return [{ ...branch, set }]
      // A list that is applied and does not exist lets everything pass in the dialect of lines in blocks (common
      // practice).
      if (this.run.compiled.device.rules.absentList === 'permits') {
        this.run.decided(
          stage,
          `the access list ${name} is undefined: everything is permitted`,
          this.#portExhibits(branch, stage),
        )
        return [{ ...branch, set }]
      }
      this.run.end(
        'undecided',
        { code: 'not-evaluated', words: `the access list ${name} is undefined` },
        { ...branch, set },
      )
      return []
    }
    const lines: ListVerdict[] = []
    const context = this.run.context(branch)
    const { permitted, denied } = this.run.outcome.decided
      ? this.run.compiled.lists.follow(list, set, context, (verdict) => lines.push(verdict))
      : this.run.compiled.lists.decide(list, set, context)
    const both = diagrams.and(permitted, denied)
    if (this.run.outcome.decided)
      for (const verdict of lines.filter(({ action }) => action !== 'lead'))
        this.run.decided(
          stage,
          `${verdict.action === 'permit' ? 'permitted' : 'denied'} by ${list.name}${verdict.sure ? '' : ', perhaps'}`,
          [...lines.filter(({ action }) => action === 'lead'), verdict].flatMap((one) => this.#lineExhibits(one)),
          verdict.action === 'deny',
        )
    if (both !== NOTHING)
      this.run.end(
        'undecided',
        { code: 'not-evaluated', words: `${list.name} has terms that cannot be evaluated` },
        { ...branch, set: both },
      )
    const stopped = diagrams.minus(denied, permitted)
    if (stopped !== NOTHING)
      this.run.end('stopped', { code: 'filter', words: `${stage}: ${list.name}` }, { ...branch, set: stopped })
    const passed = diagrams.minus(permitted, denied)
    return passed === NOTHING ? [] : this.#intoInstances(list, context, { ...branch, set: passed })
  }

  /** What an entry permits that names a routing instance is looked up in its table. */
  #intoInstances(list: ModelList, context: MatchContext, branch: Branch): Branch[] {
    if (!this.run.compiled.lists.namesInstances(list)) return [branch]
    const { diagrams } = this.run.headers
    const parts: Branch[] = []
    let left = branch.set
    this.run.compiled.lists.follow(list, branch.set, context, ({ list: of, entry, packets, action }) => {
      const vrf = action === 'permit' ? (of.entries[entry]?.routingInstance ?? null) : null
      const met = vrf === null ? NOTHING : diagrams.and(left, packets)
      if (met === NOTHING) return
      left = diagrams.minus(left, met)
      parts.push({ ...branch, set: met, vrf: vrf === 'default' ? null : vrf })
    })
    return left === NOTHING ? parts : [...parts, { ...branch, set: left }]
  }

  #lineExhibits({ list, entry }: ListVerdict): Exhibit[] {
    const l = this.run.compiled.model?.accessLists.indexOf(list) ?? -1
    return l < 0
      ? []
      : exhibitsOf(
          this.run.compiled.device,
          'model',
          entry < 0 ? `accessLists[${l}]` : `accessLists[${l}].entries[${entry}]`,
        )
  }

  #portExhibits({ inInterface, outInterface }: Branch, stage: string): Exhibit[] {
    const at = this.run.compiled.device.interfaces[stage.endsWith('in') ? inInterface : outInterface]?.at ?? -1
    return at < 0 ? [] : exhibitsOf(this.run.compiled.device, 'model', `interfaces[${at}].filters`)
  }

  loopbackFilter(branch: Branch): Branch[] {
    const loopback = this.run.compiled.device.interfaces.findIndex(({ kind }) => kind === 'loopback')
    return FAMILIES.flatMap((family) => {
      const name = loopback < 0 ? null : this.run.compiled.interfaceList(loopback, 'in', family)
      const set = this.run.headers.diagrams.and(branch.set, this.run.headers.family(family))
      return set === NOTHING
        ? []
        : name === null
          ? [{ ...branch, set }]
          : this.listStage(name, family, 'management', { ...branch, set })
    })
  }

  /** Lists on the terminal lines, which logins meet. */
  terminalLists(branch: Branch): Branch[] {
    const { model } = this.run.compiled
    if (!model) return [branch]
    const { diagrams } = this.run.headers
    const logins = this.run.headers.all(this.run.headers.tcp, this.run.headers.range('destinationPort', [22, 23]))
    const others = diagrams.minus(branch.set, logins)
    const lines = model.system.terminals.filter(({ kind }) => kind === 'remote')
    return [
      ...(others === NOTHING ? [] : [{ ...branch, set: others }]),
      ...FAMILIES.flatMap((family) => {
        const set = this.run.headers.all(branch.set, logins, this.run.headers.family(family))
        if (set === NOTHING) return []
        const names = new Set(lines.map((line) => (family === 'ipv4' ? line.accessList4 : line.accessList6)))
        const [name = null, ...more] = names
        // Which terminal line a login gets is not known beforehand.
        if (more.length > 0)
          this.run.end(
            'undecided',
            { code: 'not-evaluated', words: 'its terminal lines have different access lists' },
            { ...branch, set },
          )
        return more.length > 0
          ? []
          : name === null
            ? [{ ...branch, set }]
            : this.listStage(name, family, 'management', { ...branch, set })
      }),
    ]
  }
}
