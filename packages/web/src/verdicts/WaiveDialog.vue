<script setup lang="ts">
import type { Waivable } from '@jurybox/core/audit'
import { computed, onMounted, ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { VerdictRow } from '../api/types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useSession } from '../stores/session.ts'

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
const DAY = 86_400_000
const engagement = useEngagement()
const session = useSession()
const problem = ref('')
const reason = ref('')
const owner = ref(session.view?.user.fullName ?? '')
const until = ref(new Date(Date.now() + 90 * DAY).toISOString().slice(0, 10))
const everywhere = ref(props.auditId === null)
const subject = ref<string | null>(null)
const objecting = ref<string[]>([props.verdict.device])
const chosen = ref<string[]>([props.verdict.device])
const came = ref<{ device: string | null; what: string }[] | null>(null)
const subjects = computed(() =>
  props.verdict.subjects
    .filter(({ outcome, name }) => name !== '' && outcome !== 'pass' && outcome !== 'notapplicable')
    .map(({ name }) => name),
)

onMounted(async () => {
  if (props.auditId === null) return
  try {
    const { verdicts } = await api.get<{ verdicts: VerdictRow[] }>(
      `${engagement.base}/audits/${props.auditId}/verdicts`,
      { benchmark: props.verdict.benchmark, rule: props.verdict.rule, outcome: 'fail,unknown,error', limit: 500 },
    )
    objecting.value = [
      ...new Set([props.verdict.device, ...verdicts.filter(({ waived }) => !waived).map(({ device }) => device)]),
    ]
  } catch (error) {
    problem.value = wordsOf(error)
  }
})

async function waive(): Promise<void> {
  problem.value = ''
  try {
    const { benchmark, rule } = props.verdict
    const answer = await api.post<{ came: { device: string | null; what: string }[] }>(`${engagement.base}/waivers`, {
      benchmark,
      rule,
      devices: everywhere.value ? null : chosen.value,
      subject: subject.value,
      reason: reason.value,
      owner: owner.value,
      expires: `${until.value}T23:59:59Z`,
    })
    came.value = answer.came
    emit('waived')
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
</script>

<template>
  <v-dialog v-model="open" aria-label="Waive a violation">
    <v-card class="waive">
      <h2>
        Waive <code>{{ verdict.rule }}</code>
      </h2>
      <template v-if="came">
        <ul role="status">
          <li v-for="one in came" :key="one.device ?? ''">
            <strong>{{ one.device ?? (auditId === null ? verdict.rule : 'Every device') }}</strong>: {{ one.what }}
          </li>
        </ul>
        <div class="end"><v-btn variant="flat" @click="open = false">Close</v-btn></div>
      </template>
      <form v-else @submit.prevent="waive">
        <p class="quiet">
          The outcome stays what it is. Report and grid show that it is borne, by whom, why and until when.
        </p>
        <fieldset v-if="auditId !== null" class="who">
          <legend>Who is in</legend>
          <v-checkbox v-model="everywhere" label="Every device, also those to come" />
          <div v-if="!everywhere" class="devices">
            <v-checkbox v-for="device in objecting" :key="device" v-model="chosen" :value="device" :label="device" />
          </div>
        </fieldset>
        <v-select
          v-if="subjects.length > 1"
          v-model="subject"
          :items="[
            { value: null, title: `All of ${subjects.length}` },
            ...subjects.map((name) => ({ value: name, title: name })),
          ]"
          label="Which of them"
        />
        <v-textarea v-model="reason" label="Reason" rows="2" auto-grow />
        <div class="two">
          <v-text-field v-model="owner" label="Borne by" /><v-text-field
            v-model="until"
            type="date"
            label="Until"
            :hint="`Ends ${absoluteTime(`${until || '2000-01-01'}T23:59:59Z`)}`"
            persistent-hint
          />
        </div>
        <ProblemNote :text="problem" />
        <div class="end">
          <v-btn variant="text" @click="open = false">Not now</v-btn
          ><v-btn
            type="submit"
            variant="flat"
            :disabled="
              reason.trim().length < 3 || owner.trim() === '' || until === '' || (!everywhere && chosen.length === 0)
            "
            >Waive</v-btn
          >
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.waive {
  padding: 20px 24px;
}
.waive form {
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
.two {
  align-items: start;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
