<script setup lang="ts">
import { setSnapshotTags } from '@jurybox/api/archive'
import type { SnapshotRow } from '@jurybox/api/snapshots'
import { ref, watch } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'

/** The tags of one snapshot; whoever may bring snapshots in may change them. */
const props = defineProps<{ snapshot: SnapshotRow; known: readonly string[] }>()
const emit = defineEmits<{ changed: [] }>()
const engagement = useEngagement()
const editing = ref(false)
const tags = ref<string[]>([])
const { problem, attempt } = useAttempt(() => emit('changed'))
watch(editing, () => (tags.value = [...props.snapshot.tags]))
async function keep(): Promise<void> {
  if (
    await attempt(() =>
      call(setSnapshotTags, {
        params: { snapshot: props.snapshot.id },
        body: { tags: tags.value.map((one) => one.trim()).filter(Boolean) },
      }),
    )
  )
    editing.value = false
}
</script>

<template>
  <form v-if="editing" class="edit" @submit.prevent="keep">
    <v-combobox
      v-model="tags"
      multiple
      chips
      closable-chips
      :items="known"
      :label="$t('snapshots.tags')"
      :aria-label="$t('snapshots.tagsOf', { snapshot: snapshot.title })"
    />
    <div>
      <v-btn size="small" type="submit" variant="flat">{{ $t('common.save') }}</v-btn>
      <v-btn size="small" variant="text" @click="editing = false">{{ $t('common.cancel') }}</v-btn>
    </div>
    <ProblemNote :text="problem" />
  </form>
  <div v-else class="shown">
    <span v-for="one in snapshot.tags" :key="one" class="tag">{{ one }}</span>
    <v-btn
      v-if="engagement.may.import"
      size="small"
      variant="text"
      :aria-label="
        snapshot.tags.length > 0
          ? $t('snapshots.editTags', { snapshot: snapshot.title })
          : $t('snapshots.tag', { snapshot: snapshot.title })
      "
      @click="editing = true"
      >{{ snapshot.tags.length > 0 ? $t('common.edit') : $t('snapshots.tagButton') }}</v-btn
    >
  </div>
</template>

<style scoped>
/* Wide enough that nothing moves when the field loses the focus. */
.edit {
  display: grid;
  gap: 6px;
  padding: 8px 0;
  width: 280px;
  max-width: 300px;
}
.shown {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.tag {
  border-left: 3px solid rgb(var(--v-theme-brass));
  background: rgb(var(--v-theme-brass-fill));
  padding: 1px 8px;
}
</style>
