import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api } from '../api/client.ts'
import type { AuditTick, EngagementView, SnapshotTick } from '../api/types.ts'

/** The engagement that is open, its chronicle, and handle B: as of when the network is shown. */
export const useEngagement = defineStore('engagement', () => {
  const view = ref<EngagementView | null>(null)
  const snapshots = ref<SnapshotTick[]>([])
  const audits = ref<AuditTick[]>([])
  /** Null: the latest snapshot, whichever that is. */
  const chosenB = ref<number | null>(null)

  const id = computed(() => view.value?.id ?? 0)
  const base = computed(() => `/engagements/${id.value}`)
  const b = computed(
    () => snapshots.value.find((snapshot) => snapshot.id === chosenB.value) ?? snapshots.value.at(-1) ?? null,
  )
  /** The finished audits of B, the last one first. */
  const auditsOfB = computed(() => audits.value.filter((tick) => tick.snapshotId === b.value?.id).toReversed())
  /** Of B: the chosen one, else the last of all devices, else the last. */
  const chosenAudit = ref<number | null>(null)
  const audit = computed(() => {
    const all = auditsOfB.value
    return all.find(({ id }) => id === chosenAudit.value) ?? all.find(({ scope }) => scope === null) ?? all[0] ?? null
  })
  const may = computed(() => {
    const role = view.value?.role ?? 'reader'
    return {
      bringIn: role !== 'reader',
      collect: role !== 'reader',
      fit: role === 'lead' || role === 'auditor',
      waive: role === 'lead' || role === 'auditor',
      attest: role !== 'reader',
      tidy: role !== 'reader',
      describe: role !== 'reader',
      writeRules: role === 'lead' || role === 'auditor',
      run: role === 'lead' || role === 'auditor',
      takeCommands: role === 'lead' || role === 'engineer',
      manage: role === 'lead',
    }
  })

  async function open(engagementId: number): Promise<void> {
    if (view.value?.id !== engagementId) {
      chosenB.value = null
      view.value = null
    }
    view.value = await api.get<EngagementView>(`/engagements/${engagementId}`)
    await refresh()
  }

  async function refresh(): Promise<void> {
    const [engagement, chronicle] = await Promise.all([
      api.get<EngagementView>(base.value),
      api.get<{ snapshots: SnapshotTick[]; audits: AuditTick[] }>(`${base.value}/chronicle`),
    ])
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

  return { view, id, base, snapshots, audits, auditsOfB, chosenAudit, chosenB, b, audit, may, open, refresh, step }
})
