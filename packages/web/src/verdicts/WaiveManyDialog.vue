<script setup lang="ts">
import type { ResponseOf } from '@jurybox/api/endpoint'
import { waiveFindings } from '@jurybox/api/findings'
import { ref } from 'vue'
import { call } from '../api/client.ts'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useSession } from '../stores/session.ts'
import WaiverFields from './WaiverFields.vue'
import { WAIVING_WORDS } from './waiving-words.ts'
import { endOf, missingIn, usualTerms } from './waiver-terms.ts'
import ActionButton from '../shared/ActionButton.vue'

/** Waives several findings of an audit on the same terms, each on its device. */
const props = defineProps<{ auditId: number; verdicts: readonly number[] }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ waived: [] }>()
const session = useSession()
const { problem, fields, attempt } = useAttempt()
const terms = ref(usualTerms(session.view?.user.fullName ?? ''))
const came = ref<ResponseOf<typeof waiveFindings>['came'] | null>(null)

const waive = () =>
  attempt(async () => {
    const { reason, owner } = terms.value
    const body = { verdicts: [...props.verdicts], reason, owner, expires: endOf(terms.value) }
    came.value = (await call(waiveFindings, { params: { audit: props.auditId }, body })).came
    emit('waived')
  })
</script>

<template>
  <ModalDialog v-model="open" :title="$t('verdicts.waiveFindings', verdicts.length)">
    <template v-if="came">
      <ul role="status" class="came">
        <li v-for="one in came" :key="`${one.device} ${one.rule}`">
          <strong>{{ one.device }}</strong>, <code>{{ one.rule }}</code>: {{ WAIVING_WORDS[one.what] }}
        </li>
      </ul>
      <div class="end">
        <v-btn variant="flat" @click="open = false">{{ $t('common.close') }}</v-btn>
      </div>
    </template>
    <form v-else @submit.prevent="waive">
      <p class="quiet">{{ $t('verdicts.theOutcomeDoesNotChange') }}</p>
      <WaiverFields v-model="terms" :fields="fields" />
      <ProblemNote :text="problem" />
      <div class="end">
        <v-btn variant="text" @click="open = false">{{ $t('common.cancel') }}</v-btn>
        <ActionButton type="submit" variant="flat" :why="missingIn(terms)">{{
          $t('verdicts.waiveButton')
        }}</ActionButton>
      </div>
    </form>
  </ModalDialog>
</template>

<style scoped>
form {
  display: grid;
  gap: 12px;
  margin-top: 8px;
}
.came {
  max-height: 50vh;
  overflow: auto;
  padding-left: 18px;
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
