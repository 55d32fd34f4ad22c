<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { IntakeView, SnapshotView } from '../api/types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'

/** What was read of dropped files, what was refused, what has to be settled, and the freezing. */
const props = defineProps<{ intake: IntakeView }>()
const emit = defineEmits<{ frozen: [view: SnapshotView]; dropped: [] }>()
const engagement = useEngagement()
const problem = ref('')
const busy = ref(false)

const local = (at: Date): string => at.toISOString().slice(0, 16)
const form = reactive({
  title:
    props.intake.title === 'Dropped files' ? `Dropped ${new Date().toISOString().slice(0, 10)}` : props.intake.title,
  takenAt: local(props.intake.takenAt ? new Date(props.intake.takenAt) : new Date()),
  note: props.intake.note,
})
const settled = reactive<Record<string, string>>({})
/** Devices of the snapshot before that are not carried over. */
const without = ref<string[]>([])
const records = computed(() =>
  props.intake.devices.flatMap((device) =>
    device.records.map((record) => ({ ...record, device: device.name, dialect: device.dialect })),
  ),
)
const asked = computed(() => records.value.filter((record) => record.takenAt === null).length)
const questions = computed(() =>
  props.intake.sameName.flatMap(({ name, paths }) =>
    paths.slice(1).map((path) => ({ name, path, first: paths[0] ?? '' })),
  ),
)
const plainRefusals = computed(() =>
  props.intake.refused.filter((refusal) => !questions.value.some((question) => question.path === refusal.path)),
)
const unanswered = computed(() => questions.value.filter((question) => settled[question.path] === undefined).length)

async function freeze(): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    const answers = Object.entries(settled).flatMap(([path, as]) => (as === '' ? [] : [{ path, as }]))
    emit(
      'frozen',
      await api.post<SnapshotView>(`${engagement.base}/snapshots`, {
        intake: props.intake.id,
        title: form.title,
        note: form.note,
        takenAt: `${form.takenAt}:00Z`,
        settled: answers,
        without: without.value,
      }),
    )
  } catch (error) {
    problem.value = wordsOf(error)
  } finally {
    busy.value = false
  }
}
async function drop(): Promise<void> {
  await api.delete(`${engagement.base}/intake/${props.intake.id}`).catch(() => undefined)
  emit('dropped')
}
</script>

<template>
  <section class="intake" aria-label="What was read">
    <h2>
      {{ intake.devices.length }} {{ intake.devices.length === 1 ? 'device' : 'devices' }} read,
      {{ plainRefusals.length }} {{ plainRefusals.length === 1 ? 'file' : 'files' }} refused
    </h2>
    <div v-if="questions.length > 0" class="panel part">
      <h3>Which device is it?</h3>
      <div v-for="question in questions" :key="question.path" class="question">
        <p>
          <code>{{ question.path }}</code> states the host name <strong>{{ question.name }}</strong>, as
          <code>{{ question.first }}</code> does.
        </p>
        <v-btn-toggle
          v-model="settled[question.path]"
          density="compact"
          variant="outlined"
          color="primary"
          :aria-label="`What to do with ${question.path}`"
        >
          <v-btn value="">Leave it out</v-btn>
          <v-btn :value="question.name">Take it instead</v-btn>
          <v-btn :value="`${question.name}-2`">Take it as {{ question.name }}-2</v-btn>
        </v-btn-toggle>
      </div>
    </div>
    <div v-if="plainRefusals.length > 0" class="panel part">
      <h3>Refused</h3>
      <p v-for="refusal in plainRefusals" :key="refusal.path">
        <code>{{ refusal.path }}</code>: {{ refusal.reason }}
      </p>
    </div>
    <div class="panel">
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">Device</th>
            <th scope="col">File</th>
            <th scope="col">Record</th>
            <th scope="col" class="num">Lines</th>
            <th scope="col" class="num">Unparsed</th>
            <th scope="col">Taken</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="record in records" :key="record.path">
            <td>{{ record.device }}</td>
            <td>
              <code>{{ record.path }}</code>
              <div v-for="fault in record.faults" :key="fault.line" class="fault">
                not whole, line {{ fault.line }}: {{ fault.reason }}
              </div>
            </td>
            <td>
              {{ record.kind }}
              <div
                v-if="record.confidence !== null"
                class="quiet"
                :title="`${Math.round(record.confidence * 100)} % of what tells dialects apart was recognised; a line “dialect: …” in device.yaml overrides it`"
              >
                {{ record.dialect }}, {{ Math.round(record.confidence * 100) }} %
              </div>
            </td>
            <td class="num">{{ record.lines }}</td>
            <td class="num">{{ record.unread }}</td>
            <td>{{ record.takenAt === null ? 'as given below' : absoluteTime(record.takenAt) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-if="intake.carries.length > 0" class="panel part">
      <p class="quiet">
        {{ intake.carries.length - without.length }} of {{ intake.carries.length }} other devices are carried over from
        the snapshot before, each with its own age:
        {{ intake.carries.filter((name) => !without.includes(name)).join(', ') }}.
      </p>
      <v-autocomplete
        v-model="without"
        :items="intake.carries"
        label="Leave out devices that are no longer there"
        multiple
        chips
        closable-chips
      />
    </div>
    <form class="freeze panel" @submit.prevent="freeze">
      <v-text-field v-model="form.title" label="Title of the snapshot" required />
      <v-text-field
        v-model="form.takenAt"
        type="datetime-local"
        :label="
          asked > 0
            ? `Time of capture in UTC (${asked} of ${records.length} do not state their own)`
            : 'Time of the snapshot in UTC'
        "
        required
      />
      <v-text-field v-model="form.note" label="Note" />
      <div class="end">
        <v-btn variant="text" @click="drop">Discard files</v-btn>
        <v-btn
          type="submit"
          variant="flat"
          :loading="busy"
          :disabled="unanswered > 0 || (intake.devices.length === 0 && questions.length === 0)"
          >Freeze the snapshot</v-btn
        >
      </div>
      <ProblemNote :text="problem" />
    </form>
  </section>
</template>

<style scoped>
.intake {
  display: grid;
  gap: 10px;
}
.part {
  padding: 10px 14px;
  display: grid;
  gap: 6px;
}
.question {
  display: grid;
  gap: 6px;
  justify-items: start;
  padding: 6px 0;
}
.fault {
  color: rgb(var(--v-theme-fail));
  font-size: 12.5px;
}
.freeze {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(230px, 1fr));
  gap: 10px;
  padding: 14px;
  align-items: start;
}
.end {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
  grid-column: 1 / -1;
}
</style>
