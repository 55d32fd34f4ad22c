<script setup lang="ts">
import { addHold, releaseHold, type RetentionView } from '@jurybox/api/archive'
import { computed, reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import { t } from '../messages/index.ts'
import AgeText from '../shared/AgeText.vue'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'

/** Legal holds: what nobody deletes until a lead releases it. */
const props = defineProps<{ holds: RetentionView['holds']; snapshots: RetentionView['snapshots'] }>()
const emit = defineEmits<{ changed: [] }>()
const engagement = useEngagement()
const { problem, attempt } = useAttempt(() => emit('changed'))
const adding = ref(false)
const releasing = ref<RetentionView['holds'][number] | null>(null)
const form = reactive({ snapshot: null as number | null, reason: '' })
const choices = computed(() => [
  { value: null, title: t('snapshots.everySnapshot') },
  ...props.snapshots.map(({ id, title }) => ({ value: id, title })),
])
function begin(hold: RetentionView['holds'][number] | null): void {
  Object.assign(form, { snapshot: null, reason: '' })
  if (hold) releasing.value = hold
  else adding.value = true
}
async function add(): Promise<void> {
  if (await attempt(() => call(addHold, { body: { ...form } }))) adding.value = false
}
async function release(): Promise<void> {
  const hold = releasing.value?.id ?? 0
  if (await attempt(() => call(releaseHold, { params: { hold }, body: { reason: form.reason } })))
    releasing.value = null
}
</script>

<template>
  <div class="holds">
    <h3>{{ $t('snapshots.legalHolds') }}</h3>
    <p v-if="holds.length === 0" class="quiet">{{ $t('snapshots.noHolds') }}</p>
    <ul v-else>
      <li v-for="hold in holds" :key="hold.id">
        <b>{{ hold.snapshot?.title ?? $t('snapshots.everySnapshot') }}</b>: {{ hold.reason }}
        <span class="quiet">{{ hold.by }}, <AgeText :at="hold.at" /></span>
        <v-btn v-if="engagement.may.manage" size="x-small" variant="text" @click="begin(hold)">{{
          $t('snapshots.releaseHold')
        }}</v-btn>
      </li>
    </ul>
    <p v-if="engagement.may.manage">
      <v-btn size="small" @click="begin(null)">{{ $t('snapshots.addHold') }}</v-btn>
    </p>
    <ModalDialog v-model="adding" :title="$t('snapshots.addHold')">
      <ProblemNote :text="problem" />
      <div class="form-fields">
        <v-select v-model="form.snapshot" :items="choices" :label="$t('snapshots.snapshot')" />
        <v-textarea v-model="form.reason" :label="$t('common.reason')" rows="2" auto-grow />
      </div>
      <template #actions>
        <v-btn variant="text" @click="adding = false">{{ $t('common.cancel') }}</v-btn>
        <v-btn variant="flat" :disabled="form.reason.trim().length < 3" @click="add">{{
          $t('snapshots.addHold')
        }}</v-btn>
      </template>
    </ModalDialog>
    <ModalDialog
      v-if="releasing"
      :model-value="true"
      :title="$t('snapshots.releaseHold')"
      @update:model-value="releasing = null"
    >
      <ProblemNote :text="problem" />
      <p>{{ releasing.reason }}</p>
      <v-textarea v-model="form.reason" :label="$t('common.reason')" rows="2" auto-grow />
      <template #actions>
        <v-btn variant="text" @click="releasing = null">{{ $t('common.cancel') }}</v-btn>
        <v-btn variant="flat" :disabled="form.reason.trim().length < 3" @click="release">{{
          $t('snapshots.releaseHold')
        }}</v-btn>
      </template>
    </ModalDialog>
  </div>
</template>

<style scoped>
h3 {
  font-size: 14px;
}
ul {
  margin: 2px 0;
  padding-left: 20px;
}
</style>
