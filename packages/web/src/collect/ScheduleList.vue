<script setup lang="ts">
import { useConfirm } from '../stores/confirm.ts'
import { t } from '../messages/index.ts'
import type { BodyOf } from '@jurybox/api/endpoint'
import {
  type ScheduleRow,
  addSchedule,
  changeSchedule,
  deleteSchedule,
  listSchedules,
  pauseSchedule,
  previewSchedule,
  runSchedule,
} from '@jurybox/api/schedules'
import { listGroups } from '@jurybox/api/groups'
import { listBenchmarks } from '@jurybox/api/benchmarks'
import { computed, reactive, ref, watch } from 'vue'
import { wordsOf, call } from '../api/client.ts'
import { useAskedAction } from '../shared/asked-action.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import TimeField from '../shared/TimeField.vue'
import { timeInZone } from '../shared/time.ts'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import ActionButton from '../shared/ActionButton.vue'

const confirm = useConfirm()

/** What is done again and again: in words or as cron, with the next five times. */
const engagement = useEngagement()
const emit = defineEmits<{ changed: [] }>()
const { data, problem, fields, attempt } = useQuery(listSchedules, () => ({}), { changed: () => emit('changed') })
const { data: shelf, problem: noShelf } = useQuery(listBenchmarks, () => ({}))
const { data: named, problem: noGroups } = useQuery(listGroups, () => ({}))
const schedules = computed(() => data.value ?? [])
const benchmarks = computed(() => shelf.value ?? [])
const groups = computed(() => (named.value ?? []).map(({ title }) => title))
const adding = ref(false)
/** The schedule that is changed; null: a new one is added. */
const changing = ref<ScheduleRow | null>(null)
useAskedAction('add-schedule', () => engagement.may.run && begin(null))
const preview = ref<{ words: string; next: string[] } | null>(null)
const why = ref('')
const blank = () => ({
  title: '',
  does: 'both' as ScheduleRow['does'],
  every: 'month' as BodyOf<typeof previewSchedule>['rhythm']['every'],
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
  whom: 'all' as 'all' | 'devices' | 'group',
  devices: '',
  group: null as string | null,
})
const form = reactive(blank())
const WHOM = [
  { value: 'all', title: t('collect.allDevices') },
  { value: 'group', title: t('collect.devicesOfAGroup') },
  { value: 'devices', title: t('collect.theseDevices') },
]
const DOES = [
  { value: 'collect', title: t('collect.collect') },
  { value: 'audit', title: t('collect.auditTheLatestSnapshot') },
  { value: 'both', title: t('collect.collectThenAudit') },
  { value: 'discover', title: t('collect.discoverDevices') },
]
const EVERY = [
  { value: 'day', title: t('collect.everyDay') },
  { value: 'week', title: t('collect.everyWeek') },
  { value: 'month', title: t('collect.everyMonth') },
  { value: 'cron', title: t('collect.byCronExpression') },
]
const DAYS = [
  t('collect.monday'),
  t('collect.tuesday'),
  t('collect.wednesday'),
  t('collect.thursday'),
  t('collect.friday'),
  t('collect.saturday'),
  t('collect.sunday'),
].map((title, i) => ({ value: i + 1, title }))
const WHICH = ['first', 'second', 'third', 'fourth', 'last'].map((title, i) => ({ value: i + 1, title }))
const zones = Intl.supportedValuesOf('timeZone')

watch(benchmarks, (all) => {
  if (form.benchmarks.length > 0) return
  form.benchmarks = all
    .filter(({ rules }) => rules > 0)
    .map(({ id }) => id)
    .slice(0, 1)
})
const audits = computed(() => form.does === 'audit' || form.does === 'both')
const collects = computed(() => form.does === 'collect' || form.does === 'both')
const rhythm = computed((): BodyOf<typeof previewSchedule>['rhythm'] => {
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
      const answer = await call(previewSchedule, { body: { rhythm: rhythm.value, zone: form.zone } })
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
function begin(schedule: ScheduleRow | null): void {
  changing.value = schedule
  Object.assign(form, blank(), { benchmarks: form.benchmarks })
  if (schedule)
    Object.assign(form, {
      ...schedule.rhythm,
      title: schedule.title,
      does: schedule.does,
      zone: schedule.zone,
      looks: schedule.looks,
      word: schedule.word ?? '',
      ...(schedule.benchmarks.length > 0 ? { benchmarks: schedule.benchmarks } : {}),
      ...(schedule.discovery
        ? { first: schedule.discovery.first.join(', '), hops: schedule.discovery.hops, port: schedule.discovery.port }
        : {}),
      whom: schedule.group !== null ? 'group' : schedule.devices !== null ? 'devices' : 'all',
      group: schedule.group,
      devices: schedule.devices?.join(', ') ?? '',
    })
  adding.value = true
}
const words = (text: string): string[] => text.split(/[\s,;]+/).filter(Boolean)
const save = () =>
  attempt(async () => {
    const before = changing.value
    const body: BodyOf<typeof addSchedule> = {
      title: form.title,
      does: form.does,
      rhythm: rhythm.value,
      zone: form.zone,
      benchmarks: audits.value ? form.benchmarks : [],
      looks: form.looks && collects.value,
      word: form.does === 'discover' ? null : form.word.trim() || null,
      devices: form.does !== 'discover' && form.whom === 'devices' ? words(form.devices) : null,
      group: form.does !== 'discover' && form.whom === 'group' ? form.group : null,
      discovery:
        form.does === 'discover'
          ? {
              first: words(form.first),
              hops: Number(form.hops),
              range: before?.discovery?.range ?? null,
              port: Number(form.port),
              snmpPort: before?.discovery?.snmpPort ?? null,
              otherKeys: before?.discovery?.otherKeys ?? false,
            }
          : null,
    }
    if (before) await call(changeSchedule, { params: { schedule: before.id }, body })
    else await call(addSchedule, { body })
    adding.value = false
  })
</script>

<template>
  <section class="panel block">
    <h2>{{ $t('collect.schedules') }}</h2>
    <ProblemNote :text="problem || noShelf || noGroups" />
    <p v-if="schedules.length === 0 && !adding" class="quiet">{{ $t('collect.noSchedulesYetAddOne') }}</p>
    <article v-for="one in schedules" :key="one.id" class="one">
      <b>{{ one.title }}</b>
      <p>
        {{ DOES.find(({ value }) => value === one.does)?.title }} {{ one.words }}
        <span class="quiet">({{ one.zone }})</span>
      </p>
      <p v-if="one.group !== null || one.devices !== null" class="quiet">
        {{
          one.group !== null
            ? $t('collect.forTheGroup', { group: one.group })
            : $t('collect.forDevices', { devices: one.devices?.join(', ') ?? '' })
        }}
      </p>
      <p v-if="one.discovery" class="quiet">
        {{
          $t('collect.fromAtMostHops', {
            Boolean: [...one.discovery.first, one.discovery.range].filter(Boolean).join(', '),
            hops: one.discovery.hops,
          })
        }}
      </p>
      <p v-if="one.looks || one.word" class="quiet">
        <template v-if="one.looks">{{ $t('collect.onlyDevicesWhoseConfigurationChanged') }} </template><template
          v-if="one.word"
          >{{ $t('collect.alsoWhenASyslogMessage', { word: one.word }) }}</template
        >
      </p>
      <p v-if="one.lastAt" class="quiet">
        {{ $t('collect.lastRun') }} <AgeText :at="one.lastAt" />: {{ one.lastSaid }}
      </p>
      <p v-if="one.paused" class="quiet">{{ $t('collect.paused') }}</p>
      <details v-else>
        <summary>{{ $t('collect.nextRun', { timeIn: timeInZone(one.next[0] ?? '', one.zone) }) }}</summary>
        <ol>
          <li v-for="at in one.next" :key="at">{{ timeInZone(at, one.zone) }}</li>
        </ol>
      </details>
      <div v-if="engagement.may.run">
        <v-btn
          size="small"
          variant="text"
          @click="attempt(() => call(runSchedule, { params: { schedule: one.id } }))"
          >{{ $t('collect.runNow') }}</v-btn><v-btn size="small" variant="text" @click="begin(one)">{{
          $t('common.edit')
        }}</v-btn
        ><v-btn
          size="small"
          variant="text"
          @click="attempt(() => call(pauseSchedule, { params: { schedule: one.id }, body: { paused: !one.paused } }))"
          >{{ one.paused ? $t('collect.resume') : $t('collect.pause') }}</v-btn
        ><v-btn
          size="small"
          variant="text"
          @click="
            confirm.deletion($t('collect.kindSchedule'), one.title, () =>
              attempt(() => call(deleteSchedule, { params: { schedule: one.id } })),
            )
          "
          >{{ $t('common.delete') }}</v-btn
        >
      </div>
    </article>
    <form v-if="adding" class="form" @submit.prevent="save">
      <v-text-field v-model="form.title" :label="$t('collect.titleOfTheSchedule')" :error-messages="fields['title']" />
      <v-select v-model="form.does" :error-messages="fields['does']" :items="DOES" :label="$t('common.action')" />
      <v-select
        v-if="audits"
        v-model="form.benchmarks"
        :error-messages="fields['benchmarks']"
        multiple
        :items="benchmarks.map(({ id, title }) => ({ value: id, title }))"
        :label="$t('common.benchmarks')"
      />
      <template v-if="form.does === 'discover'"
        ><v-text-field
          v-model="form.first"
          :error-messages="fields['first']"
          :label="$t('collect.addressesOfFirstDevices')"
          class="code" />
        <div class="two">
          <v-text-field
            v-model="form.hops"
            :error-messages="fields['hops']"
            :label="$t('collect.mostHops')"
            type="number"
          /><v-text-field
            v-model="form.port"
            :error-messages="fields['port']"
            :label="$t('collect.sshPort')"
            type="number"
          /></div
      ></template>
      <template v-else>
        <v-select v-model="form.whom" :error-messages="fields['whom']" :items="WHOM" :label="$t('common.devices')" />
        <v-select
          v-if="form.whom === 'group'"
          v-model="form.group"
          :items="groups"
          :label="$t('collect.group')"
          :no-data-text="$t('collect.noGroups')"
          :error-messages="fields['group']"
        />
        <v-text-field
          v-else-if="form.whom === 'devices'"
          v-model="form.devices"
          :label="$t('collect.namesOfDevices')"
          :error-messages="fields['devices']"
          class="code"
        />
      </template>
      <v-select v-model="form.every" :error-messages="fields['every']" :items="EVERY" :label="$t('collect.repeat')" />
      <v-text-field
        v-if="form.every === 'cron'"
        v-model="form.cron"
        :error-messages="fields['cron']"
        :label="$t('collect.cronExpression')"
        class="code"
      />
      <div v-else class="two">
        <v-select
          v-if="form.every === 'month'"
          v-model="form.which"
          :error-messages="fields['which']"
          :items="WHICH"
          :label="$t('collect.weekOfTheMonth')"
        />
        <v-select
          v-if="form.every !== 'day'"
          v-model="form.on"
          :error-messages="fields['on']"
          :items="DAYS"
          :label="$t('collect.day')"
        />
        <TimeField v-model="form.at" :error-messages="fields['at']" :label="$t('common.time')" />
      </div>
      <v-autocomplete
        v-model="form.zone"
        :error-messages="fields['zone']"
        :items="zones"
        :label="$t('collect.timeZone')"
      />
      <v-checkbox v-if="collects" v-model="form.looks" :label="$t('collect.onlyDevicesWhoseConfigurationHas')" />
      <v-text-field
        v-if="form.does !== 'discover'"
        v-model="form.word"
        :error-messages="fields['word']"
        :label="$t('collect.syslogWordLabel')"
        :placeholder="$t('collect.wasChanged')"
      />
      <p v-if="why" class="why" role="alert">{{ why }}</p>
      <div v-if="preview" aria-live="polite">
        <p>{{ preview.words }}</p>
        <ol>
          <li v-for="at in preview.next" :key="at" class="quiet">{{ timeInZone(at, form.zone) }}</li>
        </ol>
      </div>
      <div>
        <ActionButton
          type="submit"
          variant="flat"
          :why="
            form.title.trim() === ''
              ? $t('collect.enterATitle')
              : form.whom === 'group' && form.group === null
                ? $t('collect.chooseAGroup')
                : preview
                  ? ''
                  : $t('collect.theTimesAreNotValid')
          "
          >{{ $t('common.save') }}</ActionButton
        >
        <v-btn variant="text" @click="adding = false">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
    <v-btn v-else-if="engagement.may.run" size="small" @click="begin(null)">{{ $t('collect.addSchedule') }}</v-btn>
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
