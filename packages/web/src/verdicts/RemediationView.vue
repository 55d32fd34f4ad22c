<script setup lang="ts">
import { t } from '../messages/index.ts'
import { type RemediationView, listRemediation, downloadRemediation } from '@jurybox/api/remediation'
import { updateFindings } from '@jurybox/api/findings'
import type { GridView } from '@jurybox/api/audits'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call, addressOf } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useQuery } from '../shared/query.ts'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { groupOf, waysToGroup } from '../shared/device-groups.ts'
import { useEngagement } from '../stores/engagement.ts'

/**
 * What has to change: topics down, devices across; in each cell what is there, what to type, a note, and whether it is
 * done.
 */
const props = defineProps<{ grid: GridView; auditId: number }>()
const engagement = useEngagement()
const route = useRoute()
const router = useRouter()
const ACROSS = 3
const from = ref(0)
const openOnly = computed({
  get: () => route.query['open'] === '1',
  set: (on) => void router.push({ query: { ...route.query, open: on ? '1' : undefined } }),
})
const who = computed({
  get: () => String(route.query['who'] ?? 'all'),
  set: (chosen) => void router.push({ query: { ...route.query, who: chosen === 'all' ? undefined : chosen } }),
})

const objecting = computed(
  () =>
    new Set(
      props.grid.cells
        .filter(({ outcome, waived }) => !waived && ['fail', 'unknown', 'error'].includes(outcome))
        .map(({ deviceId }) => deviceId),
    ),
)
const choices = computed(() => {
  const devices = props.grid.devices.filter(({ id }) => objecting.value.has(id))
  const groups = waysToGroup(devices).flatMap(({ value, title }) =>
    [...new Set(devices.map(({ facts }) => groupOf(facts, value)))]
      .sort()
      .map((group) => ({ value: `${value}=${group}`, title: `${title}: ${group}` })),
  )
  return [
    { value: 'all', title: t('verdicts.allDevicesWithOpenRemediation', { devices: devices.length }) },
    ...groups,
    ...devices.map(({ id, name }) => ({ value: `device=${id}`, title: name })),
  ]
})
const chosen = computed(() => {
  const [way = '', group = ''] = who.value.split('=')
  return props.grid.devices.filter(
    (device) =>
      objecting.value.has(device.id) &&
      (who.value === 'all' || (way === 'device' ? device.id === Number(group) : groupOf(device.facts, way) === group)),
  )
})
const shown = computed(() => chosen.value.slice(from.value, from.value + ACROSS))
watch(who, () => (from.value = 0))
const {
  data,
  problem: unlisted,
  loading: busy,
} = useQuery(listRemediation, () =>
  shown.value.length === 0
    ? null
    : { params: { audit: props.auditId }, query: { devices: shown.value.map(({ id }) => id).join(',') } },
)
const items = computed(() => data.value ?? [])
const topics = computed(() => {
  const order = new Map(props.grid.rules.map(({ topic }, i) => [topic, i]))
  return [...new Set(items.value.filter((item) => !openOnly.value || !item.done).map(({ topic }) => topic))].sort(
    (a, b) => (order.get(a) ?? 0) - (order.get(b) ?? 0),
  )
})
const cellOf = (topic: string, device: string): RemediationView[] =>
  items.value.filter((item) => item.topic === topic && item.device === device && (!openOnly.value || !item.done))
const countOf = (device: string): string => {
  const own = items.value.filter((item) => item.device === device)
  return t('verdicts.ofDone', { own: own.filter(({ done }) => done).length, own2: own.length })
}
const { problem: unmarked, attempt } = useAttempt()
const problem = computed(() => unlisted.value || unmarked.value)
const mark = (item: RemediationView, change: { done?: boolean; comment?: string }) =>
  attempt(async () => {
    const [after] = await call(updateFindings, {
      params: { audit: props.auditId },
      body: { verdicts: [item.verdict], ...change },
    })
    if (after)
      data.value = items.value.map((one) => (one === item ? { ...one, comment: after.comment, done: after.done } : one))
  })
const logOf = (format: string): string =>
  addressOf(downloadRemediation, {
    params: { audit: props.auditId, format },
    query: { devices: who.value === 'all' ? undefined : chosen.value.map(({ id }) => id) },
  })
const RISKS: Readonly<Record<string, string>> = {
  session: t('verdicts.mayCutOffTheSession'),
  traffic: t('verdicts.mayInterruptTraffic'),
}
</script>

<template>
  <div class="wide-on-paper">
    <div class="tools">
      <v-autocomplete v-model="who" :items="choices" :label="$t('common.devices')" class="who" />
      <v-checkbox v-model="openOnly" :label="$t('verdicts.openOnly')" />
      <template v-if="chosen.length > ACROSS">
        <v-btn size="small" :disabled="from === 0" @click="from = Math.max(0, from - ACROSS)">{{
          $t('verdicts.previousDevices')
        }}</v-btn>
        <span class="quiet">{{
          $t('verdicts.of', { from: from + 1, chosen: Math.min(from + ACROSS, chosen.length), chosen2: chosen.length })
        }}</span>
        <v-btn size="small" :disabled="from + ACROSS >= chosen.length" @click="from += ACROSS">{{
          $t('verdicts.nextDevices')
        }}</v-btn>
      </template>
      <span class="grow" />{{ ' ' }} <span class="quiet">{{ $t('verdicts.export') }}</span>{{ ' '
      }}<a :href="logOf('md')" download>Markdown</a>{{ ' ' }}<a :href="logOf('csv')" download>CSV</a>
    </div>
    <ProblemNote :text="problem" />
    <p v-if="chosen.length === 0" class="quiet">{{ $t('verdicts.noRemediationOnTheseDevices') }}</p>
    <div
      v-else
      class="scroll panel"
      tabindex="0"
      role="region"
      :aria-label="$t('verdicts.remediationByTopicAndDevice')"
      :aria-busy="busy"
    >
      <table class="remediation">
        <thead>
          <tr>
            <th scope="col" class="corner">{{ $t('common.topic') }}</th>
            <th v-for="device in shown" :key="device.id" scope="col">
              <router-link :to="`estate/${device.id}`">{{ device.name }}</router-link>{{ ' ' }}
              <span class="quiet">{{ countOf(device.name) }}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="topic in topics" :key="topic">
            <th scope="row">{{ topic }}</th>
            <td v-for="device in shown" :key="device.id">
              <article
                v-for="item in cellOf(topic, device.name)"
                :key="`${item.benchmark} ${item.rule}`"
                class="item"
                :class="{ done: item.done }"
              >
                <div class="title">
                  <VerdictMark :outcome="item.outcome" :word="false" /><router-link
                    :to="`/e/${engagement.id}/verdicts/${auditId}/${item.verdict}`"
                    >{{ item.title }}</router-link
                  >
                </div>
                <p class="quiet"><SeverityNotches :severity="item.severity" /> {{ item.why }}</p>
                <template v-if="item.there.length > 0"
                  ><h4>{{ $t('verdicts.present') }}</h4>
                  <pre class="mono">{{ item.there.join('\n') }}</pre>
                </template>
                <template v-if="item.wanted.length > 0 && item.type.length === 0"
                  ><h4>{{ $t('verdicts.required') }}</h4>
                  <pre class="mono">{{ item.wanted.join('\n') }}</pre>
                </template>
                <template v-if="item.type.length > 0"
                  ><h4>{{ $t('verdicts.commands') }}</h4>
                  <pre class="mono type">{{ item.type.join('\n') }}</pre>
                </template>
                <p v-if="item.words">{{ item.words }}</p>
                <p v-if="RISKS[item.risk]" class="risk">{{ RISKS[item.risk] }}</p>
                <div v-if="engagement.may.remediate" class="mark">
                  <v-checkbox
                    :model-value="item.done !== null"
                    :label="$t('verdicts.done')"
                    :aria-label="$t('verdicts.onIsDone', { item: item.title, device: item.device })"
                    @update:model-value="mark(item, { done: $event === true })"
                  />
                  <input
                    class="note"
                    :value="item.comment"
                    :placeholder="$t('verdicts.comment')"
                    :aria-label="$t('verdicts.noteOn', { item: item.title, device: item.device })"
                    @change="mark(item, { comment: ($event.target as HTMLInputElement).value })"
                  />
                </div>
                <p v-else-if="item.comment">{{ item.comment }}</p>
                <p v-if="item.done" class="quiet">
                  {{ $t('verdicts.doneBy', { by: item.done.by }) }} <AgeText :at="item.done.at" />{{
                    $t('verdicts.theNextAuditVerifiesIt')
                  }}
                </p>
              </article>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
  margin-bottom: 8px;
}
.who {
  max-width: 320px;
  min-width: 220px;
}
.grow {
  flex: 1;
}
.scroll {
  overflow: auto;
  max-height: max(300px, 100vh - 262px);
}
.remediation {
  border-collapse: separate;
  border-spacing: 0;
  width: 100%;
  table-layout: fixed;
  min-width: 760px;
}
thead th {
  position: sticky;
  top: 0;
  z-index: 2;
  background: rgb(var(--v-theme-surface));
  text-align: left;
  padding: 8px 12px;
  border-bottom: var(--hair);
}
thead .quiet {
  font-weight: 400;
  font-size: 12.5px;
  margin-left: 6px;
}
.corner {
  width: 130px;
  z-index: 3;
}
tbody th {
  position: sticky;
  left: 0;
  background: rgb(var(--v-theme-surface));
  text-align: left;
  vertical-align: top;
  padding: 10px 12px;
  font-family: var(--serif);
  font-size: 14px;
  border-bottom: var(--hair);
  z-index: 1;
}
td {
  vertical-align: top;
  padding: 6px 10px;
  border-bottom: var(--hair);
  border-left: var(--hair);
}
.item {
  padding: 6px 0;
  display: grid;
  gap: 3px;
  min-width: 0;
}
.item + .item {
  border-top: 1px dotted rgb(var(--v-theme-rule));
}
.item.done .title a {
  text-decoration: line-through;
}
.item :deep(.notches) {
  vertical-align: -2px;
}
.title {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.item h4 {
  font-size: 12.5px;
  font-weight: 600;
  margin: 2px 0 0;
  color: rgb(var(--v-theme-quiet));
}
.item pre {
  margin: 0;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.type {
  border-left: 3px solid rgb(var(--v-theme-primary));
  padding-left: 8px;
}
.risk {
  color: rgb(var(--v-theme-unknown));
}
.mark {
  display: flex;
  gap: 8px;
  align-items: center;
}
.mark :deep(.v-checkbox) {
  flex: none;
}
.note {
  flex: 1;
  min-width: 0;
  border: 1px solid rgb(var(--v-theme-rule)) !important;
  border-radius: 3px;
  padding: 2px 8px !important;
  min-height: 26px;
  font: inherit;
  color: inherit;
}
</style>
