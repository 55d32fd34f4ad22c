<script setup lang="ts">
import { listVerdicts } from '@jurybox/api/audits'
import type { ResponseOf } from '@jurybox/api/endpoint'
import { addWaivers } from '@jurybox/api/waivers'
import type { Waivable } from '@jurybox/core/audit'
import { computed, ref } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useQuery } from '../shared/query.ts'
import { useSession } from '../stores/session.ts'
import ModalDialog from '../shared/ModalDialog.vue'
import WaiverFields from './WaiverFields.vue'
import { WAIVING_WORDS } from './waiving-words.ts'
import { endOf, missingIn, usualTerms } from './waiver-terms.ts'
import ActionButton from '../shared/ActionButton.vue'

/**
 * Waives a rule on one device, on some of those that break it, or on all, with a reason, an owner and an end. What is
 * of no device (no audit is given) is waived as a whole.
 */
const props = defineProps<{
  verdict: Pick<Waivable, 'benchmark' | 'rule' | 'device' | 'subjects'>
  auditId: number | null
}>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ waived: [] }>()
const session = useSession()
const { problem, fields, attempt } = useAttempt()
const terms = ref(usualTerms(session.view?.user.fullName ?? ''))
const everywhere = ref(props.auditId === null)
const subject = ref<string | null>(null)
const { data: others, problem: unlisted } = useQuery(listVerdicts, () =>
  props.auditId === null
    ? null
    : {
        params: { audit: props.auditId },
        query: {
          benchmark: props.verdict.benchmark,
          rule: props.verdict.rule,
          outcome: 'fail,unknown,error',
          limit: 500,
        },
      },
)
/** Devices that break the rule and are not waived, the one that was asked about first. */
const objecting = computed(() => [
  ...new Set([
    props.verdict.device,
    ...(others.value?.verdicts ?? []).filter(({ waived }) => !waived).map(({ device }) => device),
  ]),
])
const chosen = ref<string[]>([props.verdict.device])
const came = ref<ResponseOf<typeof addWaivers>['came'] | null>(null)
const subjects = computed(() =>
  props.verdict.subjects
    .filter(({ outcome, name }) => name !== '' && outcome !== 'pass' && outcome !== 'notapplicable')
    .map(({ name }) => name),
)

const waive = () =>
  attempt(async () => {
    const { benchmark, rule } = props.verdict
    const answer = await call(addWaivers, {
      body: {
        benchmark,
        rule,
        devices: everywhere.value ? null : chosen.value,
        subject: subject.value,
        reason: terms.value.reason,
        owner: terms.value.owner,
        expires: endOf(terms.value),
      },
    })
    came.value = answer.came
    emit('waived')
  })
</script>

<template>
  <ModalDialog v-model="open" :title="$t('verdicts.waiveFinding')">
    <template #title>
      {{ $t('verdicts.waiveButton') }} <code>{{ verdict.rule }}</code>
    </template>
    <template v-if="came">
      <ul role="status">
        <li v-for="one in came" :key="one.device ?? ''">
          <strong>{{ one.device ?? (auditId === null ? verdict.rule : $t('verdicts.everyDevice')) }}</strong>:
          {{ WAIVING_WORDS[one.what] }}
        </li>
      </ul>
      <div class="end">
        <v-btn variant="flat" @click="open = false">{{ $t('common.close') }}</v-btn>
      </div>
    </template>
    <form v-else @submit.prevent="waive">
      <p class="quiet">
        {{ $t('verdicts.theOutcomeDoesNotChange') }}
      </p>
      <fieldset v-if="auditId !== null" class="who">
        <legend>{{ $t('common.appliesTo') }}</legend>
        <v-checkbox v-model="everywhere" :label="$t('verdicts.everyDeviceIncludingFutureOnes')" />
        <div v-if="!everywhere" class="devices">
          <v-checkbox v-for="device in objecting" :key="device" v-model="chosen" :value="device" :label="device" />
        </div>
      </fieldset>
      <v-select
        v-if="subjects.length > 1"
        v-model="subject"
        :items="[
          { value: null, title: $t('verdicts.allOf', { subjects: subjects.length }) },
          ...subjects.map((name) => ({ value: name, title: name })),
        ]"
        :label="$t('common.devices')"
      />
      <WaiverFields v-model="terms" :fields="fields" />
      <ProblemNote :text="problem || unlisted" />
      <div class="end">
        <v-btn variant="text" @click="open = false">{{ $t('common.cancel') }}</v-btn><ActionButton
          type="submit"
          variant="flat"
          :why="missingIn(terms) || (!everywhere && chosen.length === 0 ? $t('verdicts.selectADevice') : '')"
          >{{ $t('verdicts.waiveButton') }}</ActionButton
        >
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
.who {
  border: var(--hair);
  border-radius: 3px;
  padding: 4px 12px 8px;
}
.devices {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  max-height: 190px;
  overflow: auto;
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
