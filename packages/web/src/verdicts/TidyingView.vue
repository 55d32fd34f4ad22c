<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, wordsOf } from '../api/client.ts'
import type { GridView, TidyView } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
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
const items = ref<TidyView[]>([])
const problem = ref('')
const from = ref(0)
const busy = ref(false)
const openOnly = computed({
  get: () => route.query['open'] === '1',
  set: (on) => void router.replace({ query: { ...route.query, open: on ? '1' : undefined } }),
})
const who = computed({
  get: () => String(route.query['who'] ?? 'all'),
  set: (chosen) => void router.replace({ query: { ...route.query, who: chosen === 'all' ? undefined : chosen } }),
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
    { value: 'all', title: `All ${devices.length} devices with something to change` },
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
watch(
  [() => props.auditId, shown],
  async ([, devices]) => {
    if (devices.length === 0) return void (items.value = [])
    busy.value = true
    try {
      items.value = await api.get<TidyView[]>(`${engagement.base}/audits/${props.auditId}/tidying`, {
        devices: devices.map(({ id }) => id).join(','),
      })
      problem.value = ''
    } catch (error) {
      problem.value = wordsOf(error)
    }
    busy.value = false
  },
  { immediate: true },
)
const topics = computed(() => {
  const order = new Map(props.grid.rules.map(({ topic }, i) => [topic, i]))
  return [...new Set(items.value.filter((item) => !openOnly.value || !item.done).map(({ topic }) => topic))].sort(
    (a, b) => (order.get(a) ?? 0) - (order.get(b) ?? 0),
  )
})
const cellOf = (topic: string, device: string): TidyView[] =>
  items.value.filter((item) => item.topic === topic && item.device === device && (!openOnly.value || !item.done))
const countOf = (device: string): string => {
  const own = items.value.filter((item) => item.device === device)
  return `${own.filter(({ done }) => done).length} of ${own.length} done`
}
async function mark(item: TidyView, done: boolean, note: string): Promise<void> {
  try {
    const answer = await api.put<{ by: string | null; at: string | null }>(`${engagement.base}/tidying`, {
      benchmark: item.benchmark,
      rule: item.rule,
      device: item.device,
      done,
      note,
    })
    items.value = items.value.map((one) =>
      one === item
        ? { ...one, note, done: answer.by !== null && answer.at !== null ? { by: answer.by, at: answer.at } : null }
        : one,
    )
    problem.value = ''
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
const logOf = (form: string): string =>
  `/api${engagement.base}/audits/${props.auditId}/change-log.${form}${who.value === 'all' ? '' : `?devices=${chosen.value.map(({ id }) => id).join(',')}`}`
const RISKS: Readonly<Record<string, string>> = {
  session: 'May cut off the session that makes it.',
  traffic: 'May stop traffic.',
}
</script>

<template>
  <div>
    <div class="tools">
      <v-autocomplete v-model="who" :items="choices" label="Devices" class="who" />
      <v-checkbox v-model="openOnly" label="Only what is open" />
      <template v-if="chosen.length > ACROSS">
        <v-btn size="small" :disabled="from === 0" @click="from = Math.max(0, from - ACROSS)">Earlier devices</v-btn>
        <span class="quiet">{{ from + 1 }}–{{ Math.min(from + ACROSS, chosen.length) }} of {{ chosen.length }}</span>
        <v-btn size="small" :disabled="from + ACROSS >= chosen.length" @click="from += ACROSS">Later devices</v-btn>
      </template>
      <span class="grow" />
      <span class="quiet">Change log:</span><a :href="logOf('md')" download>Markdown</a
      ><a :href="logOf('csv')" download>CSV</a>
    </div>
    <ProblemNote :text="problem" />
    <p v-if="chosen.length === 0" class="quiet">Nothing has to be changed on these devices.</p>
    <div
      v-else
      class="scroll panel"
      tabindex="0"
      role="region"
      aria-label="What has to change, topics by devices"
      :aria-busy="busy"
    >
      <table class="tidy">
        <thead>
          <tr>
            <th scope="col" class="corner">Topic</th>
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
                  ><h4>There</h4>
                  <pre class="mono">{{ item.there.join('\n') }}</pre>
                </template>
                <template v-if="item.wanted.length > 0 && item.type.length === 0"
                  ><h4>Wanted</h4>
                  <pre class="mono">{{ item.wanted.join('\n') }}</pre>
                </template>
                <template v-if="item.type.length > 0"
                  ><h4>To type</h4>
                  <pre class="mono type">{{ item.type.join('\n') }}</pre>
                </template>
                <p v-if="item.words">{{ item.words }}</p>
                <p v-if="RISKS[item.risk]" class="risk">{{ RISKS[item.risk] }}</p>
                <div v-if="engagement.may.tidy" class="mark">
                  <v-checkbox
                    :model-value="item.done !== null"
                    :label="`Done`"
                    :aria-label="`${item.title} on ${item.device} is done`"
                    @update:model-value="mark(item, $event === true, item.note)"
                  />
                  <input
                    class="note"
                    :value="item.note"
                    placeholder="Note"
                    :aria-label="`Note on ${item.title}, ${item.device}`"
                    @change="mark(item, item.done !== null, ($event.target as HTMLInputElement).value)"
                  />
                </div>
                <p v-else-if="item.note">{{ item.note }}</p>
                <p v-if="item.done" class="quiet">
                  Done by {{ item.done.by }}, <AgeText :at="item.done.at" />; an audit will tell.
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
  max-height: calc(100vh - 262px);
}
.tidy {
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
