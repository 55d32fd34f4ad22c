<script setup lang="ts">
import { mdiSwapHorizontal } from '@mdi/js'
import { computed } from 'vue'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'

/** The two snapshots that are compared: the handles A and B of the chronicle as two fields. */
const engagement = useEngagement()
const items = computed(() =>
  engagement.snapshots
    .toReversed()
    .map(({ id, title, takenAt, tags }) => ({
      value: id,
      title: isTwice(title) ? `${title}, ${absoluteTime(takenAt)}` : title,
      subtitle: [absoluteTime(takenAt), ...tags].join(' · '),
    })),
)
/** Two of one title are told apart by their times. */
const isTwice = (title: string): boolean => engagement.snapshots.filter((one) => one.title === title).length > 1
const itemProps = ({ subtitle }: { subtitle: string }) => ({ subtitle })
function swap(): void {
  const [a, b] = [engagement.a, engagement.b]
  if (!a || !b) return
  engagement.chosenA = b.id
  engagement.chosenB = a.id
}
</script>

<template>
  <div class="pair">
    <v-select
      :model-value="engagement.a?.id"
      :items="items.filter(({ value }) => value !== engagement.b?.id)"
      :item-props="itemProps"
      :label="$t('changes.snapshotA')"
      hide-details
      @update:model-value="engagement.chosenA = $event"
    />
    <v-btn
      :icon="mdiSwapHorizontal"
      variant="text"
      size="small"
      :title="$t('changes.swap')"
      :aria-label="$t('changes.swap')"
      @click="swap"
    />
    <v-select
      :model-value="engagement.b?.id"
      :items="items"
      :item-props="itemProps"
      :label="$t('changes.snapshotB')"
      hide-details
      @update:model-value="engagement.chosenB = $event"
    />
  </div>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: minmax(180px, 300px) auto minmax(180px, 300px);
  gap: 6px;
  align-items: center;
  justify-content: start;
}
@media (max-width: 700px) {
  .pair {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
