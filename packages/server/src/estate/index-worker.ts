import {
  linksOf,
  nameOfModel,
  segmentsOf,
  tableOf,
  type Approvedness,
  type EstateTable,
  type Link,
  type ModelName,
  type ReadDevice,
  type Segments,
  type TableName,
  type DeviceDigest,
  identityOf,
} from '@jurybox/core/estate'
import {
  EstateIndex,
  QuestionError,
  readQuestion,
  type FoundKind,
  type FoundPart,
  type ViewedDevice,
} from '@jurybox/core/query'

/** What is asked of the index of an engagement. */
export type IndexQuestion =
  | { readonly ask: 'find'; readonly text: string; readonly limit: number; readonly kinds: readonly FoundKind[] | null }
  /** `approved`: by name, where the table shows whether software is approved. */
  | { readonly ask: 'table'; readonly table: TableName; readonly approved: Readonly<Record<string, Approvedness>> }
  | { readonly ask: 'links' }
  | { readonly ask: 'software' }
  | { readonly ask: 'addresses' }
  | { readonly ask: 'segments' }

export type IndexTask =
  | {
      readonly do: 'hold'
      readonly engagement: number
      readonly entries: readonly (readonly [key: string, body: Uint8Array])[]
      readonly modelNames: readonly ModelName[]
    }
  | {
      readonly do: 'see'
      readonly engagement: number
      readonly view: string
      readonly devices: readonly ViewedDevice[]
    }
  | { readonly do: 'ask'; readonly engagement: number; readonly view: string; readonly question: IndexQuestion }

/** Software and hardware by key, for whoever asks what a device is. */
export type Softwares = Readonly<Record<string, DeviceDigest['software']>>

export type IndexAnswer =
  | { readonly is: 'held' }
  /** The view is not known here: it is to be shown first. */
  | { readonly is: 'unseen' }
  /** Keys of the view that nobody brought yet. */
  | { readonly is: 'missing'; readonly keys: readonly string[] }
  | { readonly is: 'found'; readonly parts: readonly FoundPart[] }
  /** The question takes too long. */
  | { readonly is: 'refused'; readonly reason: string }
  | { readonly is: 'table'; readonly table: EstateTable }
  | { readonly is: 'links'; readonly links: readonly Link[] }
  | { readonly is: 'software'; readonly by: Softwares }
  | { readonly is: 'addresses'; readonly by: Readonly<Record<string, readonly string[]>> }
  | { readonly is: 'segments'; readonly by: Readonly<Record<string, Segments>> }

/** A question that takes longer is given up: others wait for their answers. */
const LONGEST_MS = 5000
/** Views of one engagement that are kept: of the snapshots that people look at. */
const VIEWS = 6
/** Engagements that are kept: each costs memory. */
const ENGAGEMENTS = 3
/** Where an index holds this many times what a view needs, it is made anew. */
const SLACK = 4

interface Kept {
  index: EstateIndex
  readonly views: Map<string, readonly ViewedDevice[]>
  /** Links of a view, computed once. */
  readonly links: Map<string, readonly Link[]>
}
const kept = new Map<number, Kept>()
const decoder = new TextDecoder()

/** Runs in one worker thread, which stays: what it holds is not read again for the next question. */
export default function indexTask(task: IndexTask): IndexAnswer {
  const own = ofEngagement(task.engagement)
  if (task.do === 'hold') {
    for (const [key, body] of task.entries)
      if (!own.index.has(key))
        own.index.add(key, named(JSON.parse(decoder.decode(body)) as ReadDevice, task.modelNames))
    return { is: 'held' }
  }
  if (task.do === 'see') {
    if (own.index.size > 1000 && own.index.size > SLACK * task.devices.length) own.index = new EstateIndex()
    own.views.delete(task.view)
    own.views.set(task.view, task.devices)
    for (const old of [...own.views.keys()].slice(0, Math.max(0, own.views.size - VIEWS))) {
      own.views.delete(old)
      own.links.delete(old)
    }
    const keys = task.devices.map(({ key }) => key).filter((key) => !own.index.has(key))
    return keys.length > 0 ? { is: 'missing', keys: [...new Set(keys)] } : { is: 'held' }
  }
  const view = own.views.get(task.view)
  if (!view) return { is: 'unseen' }
  const keys = view.map(({ key }) => key).filter((key) => !own.index.has(key))
  return keys.length > 0 ? { is: 'missing', keys: [...new Set(keys)] } : answer(own, task.view, view, task.question)
}

/** With the name of its model in place of an object identifier. */
function named(device: ReadDevice, names: readonly ModelName[]): ReadDevice {
  const { digest } = device
  const model = nameOfModel(digest.software.model, names)
  return model === digest.software.model
    ? device
    : { ...device, digest: { ...digest, software: { ...digest.software, model } } }
}

function found(
  own: Kept,
  view: readonly ViewedDevice[],
  { text, limit, kinds }: Extract<IndexQuestion, { ask: 'find' }>,
): IndexAnswer {
  const until = performance.now() + LONGEST_MS
  try {
    return {
      is: 'found',
      parts: own.index.find(readQuestion(text), view, limit, kinds ?? undefined, () => performance.now() > until),
    }
  } catch (error) {
    if (error instanceof QuestionError) return { is: 'refused', reason: error.message }
    throw error
  }
}

/** With the model and version that devices state themselves: people search for those as well. */
function identified(own: Kept, view: readonly ViewedDevice[]): ViewedDevice[] {
  return view.map((device) => {
    const digest = own.index.digest(device.key)
    if (!digest) return device
    const { model, version } = identityOf(digest, device.facts)
    return {
      ...device,
      facts: { ...device.facts, ...(model === null ? {} : { model }), ...(version === null ? {} : { version }) },
    }
  })
}

function answer(own: Kept, name: string, view: readonly ViewedDevice[], question: IndexQuestion): IndexAnswer {
  const devices = () =>
    view.flatMap(({ name, key, facts }) => {
      const digest = own.index.digest(key)
      return digest ? [{ name, digest, facts, managementAddress: facts.managementAddress }] : []
    })
  const byKey = <T>(part: (digest: DeviceDigest) => T): Record<string, T> =>
    Object.fromEntries(
      view.flatMap(({ key }) => {
        const digest = own.index.digest(key)
        return digest ? [[key, part(digest)]] : []
      }),
    )
  switch (question.ask) {
    case 'find':
      return found(own, identified(own, view), question)
    case 'table':
      return {
        is: 'table',
        table: tableOf(
          question.table,
          devices().map((device) => ({
            ...device,
            facts: { ...device.facts, approved: question.approved[device.name] },
          })),
        ),
      }
    case 'links': {
      const links = own.links.get(name) ?? linksOf(devices())
      own.links.set(name, links)
      return { is: 'links', links }
    }
    case 'software':
      return { is: 'software', by: byKey(({ software }) => software) }
    case 'segments':
      return { is: 'segments', by: byKey(segmentsOf) }
    case 'addresses':
      return {
        is: 'addresses',
        by: byKey(({ interfaces }) => interfaces.flatMap(({ addresses }) => addresses.map(({ address }) => address))),
      }
  }
}

/** The one asked for last goes last. */
function ofEngagement(id: number): Kept {
  const own = kept.get(id) ?? {
    index: new EstateIndex(),
    views: new Map<string, readonly ViewedDevice[]>(),
    links: new Map<string, readonly Link[]>(),
  }
  kept.delete(id)
  kept.set(id, own)
  for (const old of [...kept.keys()].slice(0, Math.max(0, kept.size - ENGAGEMENTS))) kept.delete(old)
  return own
}
