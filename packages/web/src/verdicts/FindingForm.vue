<script setup lang="ts">
import type { BodyOf } from '@jurybox/api/endpoint'
import { listMembers } from '@jurybox/api/engagements'
import { updateFindings, type FindingView } from '@jurybox/api/findings'
import { may } from '@jurybox/api/roles'
import { computed, reactive } from 'vue'
import { call } from '../api/client.ts'
import { counted, t } from '../messages/index.ts'
import DateField from '../shared/DateField.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useQuery } from '../shared/query.ts'
import { useToasts } from '../stores/toasts.ts'

/** Who sees to findings, until when, and what is said of them; of one, or the same for many. */
const props = defineProps<{ auditId: number; verdicts: readonly number[]; finding: FindingView | null }>()
const emit = defineEmits<{ saved: [FindingView[]] }>()
const toasts = useToasts()
const { problem, fields, attempt } = useAttempt()
const { data: members, problem: unlisted } = useQuery(listMembers, () => ({}))
/** Of many, only what is filled in is changed. */
const KEEP = -1
const form = reactive({
  owner: props.finding === null ? KEEP : (props.finding.owner?.id ?? null),
  due: props.finding?.due ?? '',
  comment: props.finding?.comment ?? '',
})
const owners = computed(() => [
  ...(props.finding === null ? [{ value: KEEP, title: t('verdicts.noChange') }] : []),
  { value: null, title: t('verdicts.nobody') },
  ...(members.value ?? [])
    .filter(({ role }) => may(role, 'remediate'))
    .map(({ id, fullName }) => ({ value: id, title: fullName })),
])

const save = () =>
  attempt(async () => {
    const { owner, due, comment } = form
    const isOne = props.finding !== null
    const body: BodyOf<typeof updateFindings> = {
      verdicts: [...props.verdicts],
      ...(owner === KEEP ? {} : { owner }),
      ...(isOne || due !== '' ? { due: due || null } : {}),
      ...(isOne || comment !== '' ? { comment } : {}),
    }
    const came = await call(updateFindings, { params: { audit: props.auditId }, body })
    toasts.show(counted('verdicts.findingsSaved', came.length))
    emit('saved', came)
  })
</script>

<template>
  <form class="finding" @submit.prevent="save">
    <v-select v-model="form.owner" :items="owners" :label="$t('verdicts.owner')" :error-messages="fields['owner']" />
    <DateField v-model="form.due" :label="$t('verdicts.due')" :error-messages="fields['due']" clearable />
    <v-textarea
      v-model="form.comment"
      :label="$t('verdicts.comment')"
      :error-messages="fields['comment']"
      rows="1"
      auto-grow
      class="wide"
    />
    <ProblemNote class="wide" :text="problem || unlisted" />
    <div class="wide end">
      <slot /><v-btn type="submit" variant="flat" size="small">{{ $t('common.save') }}</v-btn>
    </div>
  </form>
</template>

<style scoped>
.finding {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 10px;
  align-items: start;
}
.wide {
  grid-column: 1 / -1;
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
