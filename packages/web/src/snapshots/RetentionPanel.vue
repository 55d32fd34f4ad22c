<script setup lang="ts">
import { counted, t } from '../messages/index.ts'
import { type RetentionView, getRetention, setRetention } from '@jurybox/api/archive'
import { computed, ref, watch } from 'vue'
import { call } from '../api/client.ts'
import HoldPanel from './HoldPanel.vue'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'

/** How long snapshots are kept, by age and by tag; before it is kept, what would go is shown. */
const props = defineProps<{ known: readonly string[] }>()
const emit = defineEmits<{ changed: [] }>()
const engagement = useEngagement()
const { data: view, problem: unread, load } = useQuery(getRetention, () => ({}))
const tried = ref<RetentionView | null>(null)
const editing = ref(false)
const days = ref('')
const evidence = ref('')
const byTag = ref<Record<string, string>>({})
const { problem, attempt } = useAttempt()

/** An empty field keeps for good. */
const numberOf = (text: string): number | null => (text.trim() === '' ? null : Number(text))
const tags = computed(() => [...new Set([...props.known, ...Object.keys(view.value?.tags ?? {})])].sort())
function begin(): void {
  days.value = String(view.value?.days ?? '')
  evidence.value = String(view.value?.evidenceDays ?? '')
  byTag.value = Object.fromEntries(
    Object.entries(view.value?.tags ?? {}).map(([tag, kept]) => [
      tag,
      kept === null ? t('snapshots.forEver') : String(kept),
    ]),
  )
  editing.value = true
}
const wanted = computed(() => ({
  days: numberOf(days.value),
  evidenceDays: numberOf(evidence.value),
  tags: Object.fromEntries(
    Object.entries(byTag.value).flatMap(([tag, text]) =>
      text.trim() === '' ? [] : [[tag, /^\d+$/.test(text.trim()) ? Number(text) : null]],
    ),
  ),
}))
let turn = 0
watch([wanted, editing], async () => {
  if (!editing.value) return
  const now = ++turn
  await attempt(async () => {
    const answer = await call(setRetention, { body: { ...wanted.value, try: true } })
    if (now === turn) tried.value = answer
  })
})
const going = computed(() => (tried.value?.snapshots ?? []).filter(({ goes }) => goes))
const held = computed(() =>
  (tried.value?.snapshots ?? []).filter(
    ({ goes, until, heldBy }) => !goes && until !== null && heldBy !== null && new Date(until) <= new Date(),
  ),
)
async function keep(): Promise<void> {
  const kept = await attempt(async () => {
    await call(setRetention, { body: wanted.value })
    await load()
  })
  if (!kept) return
  editing.value = false
  emit('changed')
}
const words = (kept: number | null): string =>
  kept === null ? t('snapshots.forEver') : counted('common.daysCounted', kept)
</script>

<template>
  <section v-if="view" class="panel keeping">
    <h2>{{ $t('snapshots.retention') }}</h2>
    <ProblemNote :text="problem || unread" />
    <template v-if="!editing">
      <p>
        {{ $t('snapshots.snapshotsKept', { kept: words(view.days) })
        }}<template v-for="(kept, tag) in view.tags" :key="tag">{{
          $t('snapshots.tagged', { tag, kept: words(kept) })
        }}</template
        >.
        <span class="quiet">{{ $t('snapshots.snapshotsUsedByAuditsAnd') }}</span>
      </p>
      <p>{{ $t('snapshots.evidenceKept', { kept: words(view.evidenceDays) }) }}</p>
      <p v-if="engagement.may.manage">
        <v-btn size="small" @click="begin">{{ $t('common.edit') }}</v-btn>
      </p>
    </template>
    <form v-else class="form" @submit.prevent="keep">
      <v-text-field v-model="days" type="number" min="1" :label="$t('snapshots.daysEmptyForEver')" />
      <v-text-field
        v-for="tag in tags"
        :key="tag"
        v-model="byTag[tag]"
        :label="$t('snapshots.taggedDaysOrForEver', { tag })"
      />
      <v-text-field v-model="evidence" type="number" min="1" :label="$t('snapshots.evidenceDays')" />
      <div class="what" aria-live="polite">
        <p v-if="going.length === 0">{{ $t('snapshots.noSnapshotIsDeletedNow') }}</p>
        <template v-else
          ><p>
            <b>{{ going.length }}</b>
            {{
              $t('snapshots.now', {
                going: going.length === 1 ? $t('snapshots.snapshotIsDeleted') : $t('snapshots.snapshotsAreDeleted'),
              })
            }}
          </p>
          <ul>
            <li v-for="one in going" :key="one.id">
              {{ one.title }} <span class="quiet">{{ $t('snapshots.keptUntil') }} <AgeText :at="one.until" />)</span>
            </li>
          </ul></template
        >
        <p v-if="held.length > 0" class="quiet">
          {{
            $t('snapshots.keptAlthoughExpired', {
              held: held.map(({ title, heldBy }) => `${title} (${heldBy})`).join(', '),
            })
          }}
        </p>
      </div>
      <div>
        <v-btn type="submit" variant="flat">{{
          going.length > 0 ? $t('snapshots.saveAndDelete', { going: going.length }) : $t('common.save')
        }}</v-btn>
        <v-btn variant="text" @click="editing = false">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
    <HoldPanel :holds="view.holds" :snapshots="view.snapshots" @changed="load" />
  </section>
</template>

<style scoped>
.keeping {
  margin-top: 20px;
  padding: 14px 16px;
  display: grid;
  gap: 8px;
}
.form {
  display: grid;
  gap: 10px;
  max-width: 520px;
}
ul {
  margin: 2px 0;
  padding-left: 20px;
}
</style>
