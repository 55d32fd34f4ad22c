import {
  type AuditTick,
  type EngagementView,
  type SnapshotTick,
  getChronicle,
  getEngagement,
} from '@jurybox/api/engagements'
import { allowedTo } from '@jurybox/api/roles'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { call, useEngagementId } from '../api/client.ts'

/** Whether an audit judged all devices by whole benchmarks: what pages show where none is chosen. */
export const isWhole = ({ scope, framework }: Pick<AuditTick, 'scope' | 'framework'>): boolean =>
  scope === null && framework === null

/** The engagement that is open, its chronicle, and handle B: as of when the network is shown. */
export const useEngagement = defineStore('engagement', () => {
  const view = ref<EngagementView | null>(null)
  const snapshots = ref<SnapshotTick[]>([])
  const audits = ref<AuditTick[]>([])
  /** Null: the latest snapshot, whichever that is. */
  const chosenB = ref<number | null>(null)

  const id = computed(() => view.value?.id ?? 0)
  const b = computed(
    () => snapshots.value.find((snapshot) => snapshot.id === chosenB.value) ?? snapshots.value.at(-1) ?? null,
  )
  /** What B is compared with; null: the snapshot before it. */
  const chosenA = ref<number | null>(null)
  const a = computed(() => {
    const others = snapshots.value.filter(({ id: own }) => own !== b.value?.id)
    const at = snapshots.value.findIndex(({ id: own }) => own === b.value?.id)
    return others.find(({ id: own }) => own === chosenA.value) ?? snapshots.value[at - 1] ?? others[0] ?? null
  })
  /** Id of the snapshot that B is compared with as addresses name it; null: the one before, which needs no name. */
  const selectedA = computed(() => {
    const at = snapshots.value.findIndex(({ id: own }) => own === b.value?.id)
    return a.value === null || a.value.id === snapshots.value[at - 1]?.id ? null : a.value.id
  })
  /** Id of the selected snapshot as addresses name it; null: the latest, which needs no name. */
  const selectedB = computed(() =>
    chosenB.value === null || chosenB.value === snapshots.value.at(-1)?.id ? null : chosenB.value,
  )
  /** The finished audits of B, the last one first. */
  const auditsOfB = computed(() => audits.value.filter((tick) => tick.snapshotId === b.value?.id).toReversed())
  /** Of B: the chosen one, else the last of all devices, else the last. */
  const chosenAudit = ref<number | null>(null)
  const audit = computed(() => {
    const all = auditsOfB.value
    return all.find(({ id }) => id === chosenAudit.value) ?? all.find(isWhole) ?? all[0] ?? null
  })
  /** What the role of the user allows here. */
  const may = computed(() => allowedTo(view.value?.role ?? 'reader'))

  async function open(engagementId: number): Promise<void> {
    if (view.value?.id !== engagementId) {
      chosenB.value = null
      chosenA.value = null
      view.value = null
    }
    view.value = await call(getEngagement, { params: { engagement: engagementId } })
    useEngagementId(engagementId)
    await refresh()
  }

  async function refresh(): Promise<void> {
    const [engagement, chronicle] = await Promise.all([call(getEngagement), call(getChronicle)])
    view.value = engagement
    snapshots.value = chronicle.snapshots
    audits.value = chronicle.audits
  }

  /** Moves B to a neighbouring snapshot. */
  function step(by: number): void {
    const at = snapshots.value.findIndex((snapshot) => snapshot.id === b.value?.id)
    const next = snapshots.value[Math.min(Math.max(at + by, 0), snapshots.value.length - 1)]
    if (next) chosenB.value = next.id
  }

  return {
    view,
    id,
    snapshots,
    audits,
    auditsOfB,
    chosenAudit,
    chosenA,
    chosenB,
    selectedA,
    selectedB,
    a,
    b,
    audit,
    may,
    open,
    refresh,
    step,
  }
})
