<script setup lang="ts">
import { computed, onMounted, reactive, ref, watch } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { BenchmarkRow, ScheduleRow } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'

/** What is done again and again: in words or as cron, with the next five times. */
const engagement = useEngagement()
const schedules = ref<ScheduleRow[]>([])
const benchmarks = ref<BenchmarkRow[]>([])
const emit = defineEmits<{ changed: [] }>()
const { problem, attempt } = useAttempt(async () => {
  await load()
  emit('changed')
})
const adding = ref(false)
const preview = ref<{ words: string; next: string[] } | null>(null)
const why = ref('')
const form = reactive({
  title: '',
  does: 'both',
  every: 'month',
  which: 1,
  on: 1,
  at: '06:30',
  cron: '30 6 * * 1',
  zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  benchmarks: [] as string[],
  looks: true,
  word: '',
  first: '',
  hops: 8,
  port: 22,
})
const DOES = [
  { value: 'collect', title: 'Collect' },
  { value: 'audit', title: 'Audit the latest snapshot' },
  { value: 'both', title: 'Collect, then audit' },
  { value: 'discover', title: 'Look for devices' },
]
const EVERY = [
  { value: 'day', title: 'every day' },
  { value: 'week', title: 'every week' },
  { value: 'month', title: 'every month' },
  { value: 'cron', title: 'as a cron form says' },
]
const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'].map((title, i) => ({
  value: i + 1,
  title,
}))
const WHICH = ['first', 'second', 'third', 'fourth', 'last'].map((title, i) => ({ value: i + 1, title }))
const zones = Intl.supportedValuesOf('timeZone')

async function load(): Promise<void> {
  try {
    ;[schedules.value, benchmarks.value] = await Promise.all([
      api.get<ScheduleRow[]>(`${engagement.base}/schedules`),
      api.get<BenchmarkRow[]>(`${engagement.base}/benchmarks`),
    ])
    if (form.benchmarks.length === 0)
      form.benchmarks = benchmarks.value
        .filter(({ rules }) => rules > 0)
        .map(({ id }) => id)
        .slice(0, 1)
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
onMounted(load)
const audits = computed(() => form.does === 'audit' || form.does === 'both')
const collects = computed(() => form.does === 'collect' || form.does === 'both')
const rhythm = computed(() => {
  const { every, which, on, at, cron } = form
  return every === 'cron'
    ? { every, cron }
    : every === 'day'
      ? { every, at }
      : every === 'week'
        ? { every, on, at }
        : { every, which, on, at }
})
let turn = 0
watch(
  [rhythm, () => form.zone, adding],
  async () => {
    if (!adding.value) return
    const now = ++turn
    try {
      const answer = await api.post<{ words: string; next: string[] }>(`${engagement.base}/schedules/times`, {
        rhythm: rhythm.value,
        zone: form.zone,
      })
      if (now !== turn) return
      preview.value = answer
      why.value = ''
    } catch (error) {
      if (now !== turn) return
      preview.value = null
      why.value = wordsOf(error)
    }
  },
  { deep: true },
)
const add = () =>
  attempt(async () => {
    await api.post(`${engagement.base}/schedules`, {
      title: form.title,
      does: form.does,
      rhythm: rhythm.value,
      zone: form.zone,
      benchmarks: audits.value ? form.benchmarks : [],
      looks: form.looks && collects.value,
      word: form.does === 'discover' ? null : form.word.trim() || null,
      discovery:
        form.does === 'discover'
          ? {
              first: form.first.split(/[\s,;]+/).filter(Boolean),
              hops: Number(form.hops),
              range: null,
              port: Number(form.port),
              snmpPort: null,
              otherKeys: false,
            }
          : null,
    })
    adding.value = false
    form.title = form.word = ''
  })
const timeIn = (at: string, zone: string): string =>
  new Intl.DateTimeFormat('en-GB', {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    timeZone: zone,
  }).format(new Date(at))
</script>

<template>
  <section class="panel block">
    <h2>Schedules</h2>
    <ProblemNote :text="problem" />
    <p v-if="schedules.length === 0 && !adding" class="quiet">Nothing is done by itself yet.</p>
    <article v-for="one in schedules" :key="one.id" class="one">
      <b>{{ one.title }}</b>
      <p>
        {{ DOES.find(({ value }) => value === one.does)?.title }} {{ one.words }}
        <span class="quiet">({{ one.zone }})</span>
      </p>
      <p v-if="one.discovery" class="quiet">
        From {{ [...one.discovery.first, one.discovery.range].filter(Boolean).join(', ') }},
        {{ one.discovery.hops }} links far
      </p>
      <p v-if="one.looks || one.word" class="quiet">
        <template v-if="one.looks">Looks first, and goes on where something has changed. </template
        ><template v-if="one.word">Begins also when a device says “{{ one.word }}”.</template>
      </p>
      <p v-if="one.lastAt" class="quiet">Last <AgeText :at="one.lastAt" />: {{ one.lastSaid }}</p>
      <p v-if="one.paused" class="quiet">Paused</p>
      <details v-else>
        <summary>Next {{ timeIn(one.next[0] ?? '', one.zone) }}</summary>
        <ol>
          <li v-for="at in one.next" :key="at">{{ timeIn(at, one.zone) }}</li>
        </ol>
      </details>
      <div v-if="engagement.may.run">
        <v-btn
          size="small"
          variant="text"
          @click="attempt(() => api.put(`${engagement.base}/schedules/${one.id}`, { paused: !one.paused }))"
          >{{ one.paused ? 'Go on' : 'Pause' }}</v-btn><v-btn
          size="small"
          variant="text"
          @click="attempt(() => api.delete(`${engagement.base}/schedules/${one.id}`))"
          >Remove</v-btn
        >
      </div>
    </article>
    <form v-if="adding" class="form" @submit.prevent="add">
      <v-text-field v-model="form.title" label="Title of the schedule" />
      <v-select v-model="form.does" :items="DOES" label="Does" />
      <v-select
        v-if="audits"
        v-model="form.benchmarks"
        multiple
        :items="benchmarks.map(({ id, title }) => ({ value: id, title }))"
        label="By the benchmarks"
      />
      <template v-if="form.does === 'discover'"
        ><v-text-field v-model="form.first" label="First devices, their addresses" class="code" />
        <div class="two">
          <v-text-field v-model="form.hops" label="Links to follow" type="number" /><v-text-field
            v-model="form.port"
            label="SSH port"
            type="number"
          /></div
      ></template>
      <v-select v-model="form.every" :items="EVERY" label="How often" />
      <v-text-field v-if="form.every === 'cron'" v-model="form.cron" label="Cron form" class="code" />
      <div v-else class="two">
        <v-select v-if="form.every === 'month'" v-model="form.which" :items="WHICH" label="On the" />
        <v-select v-if="form.every !== 'day'" v-model="form.on" :items="DAYS" label="Day" />
        <v-text-field v-model="form.at" label="At" type="time" />
      </div>
      <v-autocomplete v-model="form.zone" :items="zones" label="Time zone" />
      <v-checkbox
        v-if="collects"
        v-model="form.looks"
        label="Look first, and go on only with devices whose configuration has changed"
      />
      <v-text-field
        v-if="form.does !== 'discover'"
        v-model="form.word"
        label="Also when a device says (syslog)"
        placeholder="was changed"
      />
      <p v-if="why" class="why" role="alert">{{ why }}</p>
      <div v-if="preview" aria-live="polite">
        <p>{{ preview.words }}</p>
        <ol>
          <li v-for="at in preview.next" :key="at" class="quiet">{{ timeIn(at, form.zone) }}</li>
        </ol>
      </div>
      <div>
        <v-btn type="submit" variant="flat" :disabled="!form.title.trim() || !preview">Keep it</v-btn>
        <v-btn variant="text" @click="adding = false">Leave</v-btn>
      </div>
    </form>
    <v-btn v-else-if="engagement.may.run" size="small" @click="adding = true">Add a schedule</v-btn>
  </section>
</template>

<style scoped>
.block {
  padding: 14px 16px;
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
  justify-items: start;
}
.one {
  width: 100%;
  border-top: var(--hair);
  padding-top: 8px;
  display: grid;
  gap: 3px;
  justify-items: start;
}
.form {
  display: grid;
  gap: 10px;
  width: 100%;
  grid-template-columns: minmax(0, 1fr);
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 8px;
}
ol {
  margin: 2px 0;
  padding-left: 20px;
}
summary {
  cursor: pointer;
  min-height: 24px;
}
.why {
  color: rgb(var(--v-theme-fail));
}
.code :deep(input) {
  font-family: var(--mono);
}
</style>
