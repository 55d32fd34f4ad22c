<script setup lang="ts">
import { useConfirm } from '../stores/confirm.ts'
import { t } from '../messages/index.ts'
import { type IntakeView, type SnapshotView, discardFiles, freezeSnapshot, listCarried } from '@jurybox/api/snapshots'
import { computed, reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import { useAttempt } from '../shared/attempt.ts'
import { useQuery } from '../shared/query.ts'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import ActionButton from '../shared/ActionButton.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import StagedLines from './StagedLines.vue'
import { grouped } from '../shared/numbers.ts'
import DateField from '../shared/DateField.vue'
import TimeField from '../shared/TimeField.vue'
import { absoluteTime, dayOf } from '../shared/time.ts'
import { useDialects } from '../stores/dialects.ts'

const confirm = useConfirm()
const dialects = useDialects()
void dialects.load()

/** What was read of dropped files, what was refused, what has to be settled, and the freezing. */
const props = defineProps<{ intake: IntakeView }>()
const emit = defineEmits<{ frozen: [view: SnapshotView]; dropped: [] }>()
const { problem, fields, attempt } = useAttempt()
const busy = ref(false)

const taken = props.intake.takenAt ?? new Date().toISOString()
const form = reactive({
  title:
    props.intake.title === 'Imported files' ? t('snapshots.imported', { n: dayOf(Date.now()) }) : props.intake.title,
  day: dayOf(taken),
  time: new Date(taken).toISOString().slice(11, 16),
  note: props.intake.note,
})
const settled = reactive<Record<string, string>>({})
/** Devices of the snapshot before that are not carried over. */
const without = ref<string[]>([])
const takenAt = computed(() => `${form.day}T${form.time}:00Z`)
/** Which snapshot is the one before depends on the time of this one. */
const { data: before, problem: unknown } = useQuery(listCarried, () =>
  Number.isNaN(Date.parse(takenAt.value))
    ? null
    : { params: { import: props.intake.id }, query: { takenAt: takenAt.value } },
)
const carries = computed(() => (before.value ?? []).filter((name) => !Object.values(settled).includes(name)))
const excluded = computed(() => without.value.filter((name) => carries.value.includes(name)))
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
/** Why nothing can be frozen yet; empty where it can. */
const why = computed(() =>
  unanswered.value > 0
    ? t('snapshots.decideDuplicatesFirst')
    : props.intake.devices.length === 0 && questions.value.length === 0
      ? t('snapshots.nothingToFreeze')
      : '',
)

async function freeze(): Promise<void> {
  busy.value = true
  await attempt(async () => {
    const answers = Object.entries(settled).flatMap(([path, as]) => (as === '' ? [] : [{ path, as }]))
    emit(
      'frozen',
      await call(freezeSnapshot, {
        body: {
          intake: props.intake.id,
          title: form.title,
          note: form.note,
          takenAt: takenAt.value,
          settled: answers,
          without: excluded.value,
        },
      }),
    )
  })
  busy.value = false
}
async function drop(): Promise<void> {
  const question = { title: t('snapshots.discardQuestion'), action: t('snapshots.discardFiles') }
  if (!(await confirm.ask(question))) return
  await call(discardFiles, { params: { import: props.intake.id } }).catch(() => undefined)
  emit('dropped')
}

/** The file whose unparsed lines are shown; empty for none. */
const opened = ref('')
const columns: Column<(typeof records.value)[number]>[] = [
  { key: 'device', title: t('common.device'), value: ({ device }) => device },
  { key: 'path', title: t('snapshots.file'), value: ({ path }) => path },
  { key: 'record', title: t('common.record'), value: ({ kind }) => kind },
  { key: 'lines', title: t('common.lines'), value: ({ lines }) => lines, numeric: true },
  { key: 'unread', title: t('snapshots.unparsed'), value: ({ unread }) => unread, numeric: true },
  {
    key: 'captured',
    title: t('common.captured'),
    value: ({ takenAt }) => (takenAt === null ? t('snapshots.asEnteredBelow') : absoluteTime(takenAt)),
    raw: ({ takenAt }) => takenAt ?? '',
  },
]
</script>

<template>
  <section class="intake" :aria-label="$t('snapshots.importedFiles')">
    <h2>
      {{ $t('snapshots.devicesImported', intake.devices.length) }},
      {{ $t('snapshots.filesRefused', plainRefusals.length) }}
    </h2>
    <div v-if="questions.length > 0" class="panel part">
      <h3>{{ $t('snapshots.duplicateHostNames') }}</h3>
      <div v-for="question in questions" :key="question.path" class="question">
        <p>
          <code>{{ question.path }}</code> {{ $t('snapshots.hasTheHostName') }} <strong>{{ question.name }}</strong>{{
            $t('snapshots.like')
          }}
          <code>{{ question.first }}</code> {{ $t('snapshots.text') }}
        </p>
        <v-btn-toggle
          v-model="settled[question.path]"
          density="compact"
          variant="outlined"
          color="primary"
          :aria-label="$t('snapshots.whatToDoWith', { path: question.path })"
        >
          <v-btn value="">{{ $t('snapshots.skipThisFile') }}</v-btn>
          <v-btn :value="question.name">{{ $t('snapshots.replaceTheOther') }}</v-btn>
          <v-btn :value="`${question.name}-2`">{{ $t('snapshots.importAsSecond', { name: question.name }) }}</v-btn>
        </v-btn-toggle>
      </div>
    </div>
    <div v-if="plainRefusals.length > 0" class="panel part">
      <h3>{{ $t('snapshots.refused') }}</h3>
      <p v-for="refusal in plainRefusals" :key="refusal.path">
        <code>{{ refusal.path }}</code>: {{ refusal.reason }}
      </p>
    </div>
    <div class="panel">
      <DataTable
        name="files"
        :label="$t('snapshots.file')"
        :rows="records"
        :columns="columns"
        :row-key="({ path }) => path"
      >
        <template #path="{ row: record }">
          <code>{{ record.path }}</code>
          <div v-for="fault in record.faults" :key="fault.line" class="fault">
            {{ $t('snapshots.incompleteLine', { line: fault.line, reason: fault.reason }) }}
          </div>
        </template>
        <template #unread="{ row: record }">
          <button
            v-if="record.unread > 0"
            type="button"
            class="as-link"
            :aria-label="$t('snapshots.showUnparsedLinesOf', { lines: grouped(record.unread), path: record.path })"
            @click="opened = record.path"
          >
            {{ grouped(record.unread) }}
          </button>
          <template v-else>0</template>
        </template>
        <template #record="{ row: record }">
          {{ record.kind }}
          <div
            v-if="record.confidence !== null"
            class="quiet"
            :title="
              $t('snapshots.dialectMatchOverrideWithDialect', { confidence: Math.round(record.confidence * 100) })
            "
          >
            {{ dialects.nameOf(record.dialect) }}, {{ Math.round(record.confidence * 100) }} %
          </div>
        </template>
      </DataTable>
    </div>
    <ProblemNote :text="unknown" />
    <StagedLines v-if="opened" :intake="intake.id" :path="opened" @close="opened = ''" />
    <div v-if="carries.length > 0" class="panel part">
      <p class="quiet">
        {{
          $t('snapshots.ofOtherDevicesAreCarried', {
            without: carries.length - excluded.length,
            carries: carries.length,
            intake: carries.filter((name) => !excluded.includes(name)).join(', '),
          })
        }}
      </p>
      <v-autocomplete
        v-model="without"
        :items="carries"
        :label="$t('snapshots.excludeDevicesThatNoLonger')"
        multiple
        chips
        closable-chips
      />
    </div>
    <form class="freeze panel" @submit.prevent="freeze">
      <v-text-field
        v-model="form.title"
        :error-messages="fields['title']"
        :label="$t('snapshots.snapshotTitle')"
        required
      />
      <div class="when">
        <DateField
          v-model="form.day"
          :error-messages="fields['takenAt']"
          :label="
            asked > 0
              ? $t('snapshots.captureTimeUtcForOf', { asked, records: records.length })
              : $t('snapshots.snapshotDate')
          "
        />
        <TimeField v-model="form.time" :label="$t('snapshots.timeUtc')" />
      </div>
      <v-text-field v-model="form.note" :error-messages="fields['note']" :label="$t('common.note')" />
      <div class="end">
        <v-btn variant="text" @click="drop">{{ $t('snapshots.discardFiles') }}</v-btn>
        <ActionButton type="submit" variant="flat" :loading="busy" :why="why">{{
          $t('snapshots.freezeSnapshot')
        }}</ActionButton>
      </div>
      <ProblemNote :text="problem" />
    </form>
  </section>
</template>

<style scoped>
.when {
  display: grid;
  grid-template-columns: 1fr 110px;
  gap: 10px;
}
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
