<script setup lang="ts">
import { listMembers } from '@jurybox/api/engagements'
import { requestAnswer, type QuestionView } from '@jurybox/api/questions'
import { may } from '@jurybox/api/roles'
import { computed, reactive } from 'vue'
import { call } from '../api/client.ts'
import DateField from '../shared/DateField.vue'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useQuery } from '../shared/query.ts'
import { dayOf } from '../shared/time.ts'

/** Asks a member for an answer to a question until a day. */
const props = defineProps<{ question: QuestionView }>()
const emit = defineEmits<{ close: []; asked: [] }>()
const WEEK = 7 * 86_400_000
const { data: members, problem: unlisted } = useQuery(listMembers, () => ({}))
const { problem, fields, attempt } = useAttempt()
const able = computed(() =>
  (members.value ?? [])
    .filter(({ role }) => may(role, 'attest'))
    .map(({ id, fullName }) => ({ value: id, title: fullName })),
)
const form = reactive({
  of: props.question.request?.of.id ?? null,
  due: props.question.request?.due ?? dayOf(Date.now() + WEEK),
  note: props.question.request?.note ?? '',
})
async function ask(): Promise<void> {
  const { benchmark, id: attestation } = props.question
  const { of, due, note } = form
  if (of === null) return
  if (await attempt(() => call(requestAnswer, { body: { benchmark, attestation, of, due, note } }))) {
    emit('asked')
    emit('close')
  }
}
</script>

<template>
  <ModalDialog :model-value="true" :title="$t('benchmarks.requestAnswer')" @update:model-value="emit('close')">
    <p>{{ question.title }}</p>
    <ProblemNote :text="problem || unlisted" />
    <div class="form-fields">
      <v-select v-model="form.of" :items="able" :label="$t('benchmarks.askOf')" :error-messages="fields['of']" />
      <DateField v-model="form.due" :label="$t('benchmarks.dueDate')" :error-messages="fields['due']" />
      <v-textarea v-model="form.note" :label="$t('common.note')" rows="2" auto-grow />
    </div>
    <template #actions>
      <v-btn variant="text" @click="emit('close')">{{ $t('common.cancel') }}</v-btn>
      <v-btn variant="flat" :disabled="form.of === null || form.due === ''" @click="ask">{{
        $t('benchmarks.requestAnswer')
      }}</v-btn>
    </template>
  </ModalDialog>
</template>
