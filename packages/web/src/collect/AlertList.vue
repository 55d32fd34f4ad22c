<script setup lang="ts">
import { computed, onMounted, reactive, ref, watch } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { AlertRow, DeliveryRow } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useJobs } from '../stores/jobs.ts'

/** Who is told of what happens, how, and what became of the last messages. */
const engagement = useEngagement()
const jobs = useJobs()
const alerts = ref<AlertRow[]>([])
const adding = ref(false)
const emit = defineEmits<{ changed: [] }>()
const { problem, attempt } = useAttempt(async () => {
  await load()
  emit('changed')
})
const blank = () => ({
  title: '',
  channel: 'mail' as AlertRow['channel'],
  host: '',
  port: 587,
  tls: 'starttls',
  from: '',
  to: '',
  user: '',
  url: '',
  secret: '',
  kinds: ['new', 'drift', 'collection'],
  severity: 'medium',
  digest: 'once',
  at: '07:00',
})
const form = reactive(blank())
const CHANNELS = [
  { value: 'mail', title: 'Mail' },
  { value: 'webhook', title: 'A signed call' },
  { value: 'ticket', title: 'A ticket' },
]
const TLS = [
  { value: 'tls', title: 'TLS from the start' },
  { value: 'starttls', title: 'STARTTLS' },
  { value: 'none', title: 'Not encrypted' },
]
const KINDS = [
  { value: 'new', title: 'new findings' },
  { value: 'resolved', title: 'resolved findings' },
  { value: 'drift', title: 'changed configurations' },
  { value: 'collection', title: 'failed collections' },
  { value: 'expectation', title: 'broken expectations' },
]
const SEVERITIES = ['info', 'low', 'medium', 'high'].map((value) => ({
  value,
  title: value === 'info' ? 'all' : `${value}${value === 'high' ? '' : ' or higher'}`,
}))
const WHEN = [
  { value: 'once', title: 'at once' },
  { value: 'day', title: 'together, every day' },
]
const STATES: Readonly<Record<DeliveryRow['state'], string>> = {
  waiting: 'waits',
  sending: 'is on its way',
  sent: 'sent',
  failed: 'failed',
  unsure: 'not known whether it arrived',
}

async function load(): Promise<void> {
  try {
    alerts.value = await api.get<AlertRow[]>(`${engagement.base}/alerts`)
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
onMounted(load)
watch(() => jobs.running.length, load)
const ready = computed(
  () =>
    form.title.trim() !== '' &&
    form.kinds.length > 0 &&
    (form.channel === 'mail' ? form.host !== '' && form.from !== '' && form.to !== '' : form.url !== ''),
)
const whereTo = ({ channel, settings }: AlertRow): string =>
  channel === 'mail' ? (settings.to ?? []).join(', ') : (settings.url ?? '')
const wordsFor = (kinds: readonly string[]): string =>
  KINDS.filter(({ value }) => kinds.includes(value))
    .map(({ title }) => title)
    .join(', ')
async function add(): Promise<void> {
  const { title, channel, host, port, tls, from, to, user, url, secret, kinds, severity, digest, at } = form
  const target =
    channel === 'mail'
      ? {
          channel,
          host,
          port: Number(port),
          tls,
          from,
          to: to.split(/[\s,;]+/).filter(Boolean),
          ...(user ? { user } : {}),
        }
      : { channel, url }
  const kept = await attempt(() =>
    api.post(`${engagement.base}/alerts`, {
      title,
      to: target,
      ...(secret ? { secret } : {}),
      kinds,
      severity,
      ...(digest === 'day'
        ? { digest: { every: 'day', at }, zone: Intl.DateTimeFormat().resolvedOptions().timeZone }
        : {}),
    }),
  )
  if (!kept) return
  Object.assign(form, blank())
  adding.value = false
}
const doneWith = ({ state, sentAt, createdAt }: DeliveryRow): string =>
  state === 'sent' ? (sentAt ?? createdAt) : createdAt
</script>

<template>
  <section class="panel block">
    <h2>Alerts</h2>
    <ProblemNote :text="problem" />
    <p v-if="alerts.length === 0 && !adding" class="quiet">Nobody is told of anything yet.</p>
    <article v-for="one in alerts" :key="one.id" class="one">
      <b>{{ one.title }}</b>
      <p>
        {{ CHANNELS.find(({ value }) => value === one.channel)?.title }} to
        <span class="where">{{ whereTo(one) }}</span>
      </p>
      <p class="quiet">
        {{ wordsFor(one.kinds) }}, {{ SEVERITIES.find(({ value }) => value === one.severity)?.title }}, {{ one.when }}
      </p>
      <p v-if="one.paused" class="quiet">Paused</p>
      <details v-if="one.deliveries[0]" :open="one.deliveries[0].state !== 'sent'">
        <summary>Last: {{ STATES[one.deliveries[0].state] }} <AgeText :at="doneWith(one.deliveries[0])" /></summary>
        <ol>
          <li
            v-for="delivery in one.deliveries"
            :key="delivery.id"
            :class="{ bad: ['failed', 'unsure'].includes(delivery.state) }"
          >
            {{ STATES[delivery.state] }}<template v-if="delivery.test">, a test</template>
            <AgeText :at="doneWith(delivery)" /><template v-if="delivery.attempts > 1"
              >, {{ delivery.attempts }} attempts</template
            ><span v-if="delivery.said" class="quiet said">{{ delivery.said }}</span>
          </li>
        </ol>
      </details>
      <div v-if="engagement.may.manage">
        <v-btn
          size="small"
          variant="text"
          :aria-label="`Test ${one.title}`"
          @click="attempt(() => api.post(`${engagement.base}/alerts/${one.id}/test`))"
          >Test</v-btn
        ><v-btn
          size="small"
          variant="text"
          :aria-label="`${one.paused ? 'Go on with' : 'Pause'} ${one.title}`"
          @click="attempt(() => api.put(`${engagement.base}/alerts/${one.id}`, { paused: !one.paused }))"
          >{{ one.paused ? 'Go on' : 'Pause' }}</v-btn
        ><v-btn
          size="small"
          variant="text"
          :aria-label="`Remove ${one.title}`"
          @click="attempt(() => api.delete(`${engagement.base}/alerts/${one.id}`))"
          >Remove</v-btn
        >
      </div>
    </article>
    <form v-if="adding" class="form" autocomplete="off" @submit.prevent="add">
      <v-text-field v-model="form.title" label="Title of the alert" />
      <v-select v-model="form.channel" :items="CHANNELS" label="Tell by" />
      <template v-if="form.channel === 'mail'">
        <div class="two">
          <v-text-field v-model="form.host" label="Mail server" /><v-text-field
            v-model="form.port"
            label="Port"
            type="number"
          />
        </div>
        <v-select v-model="form.tls" :items="TLS" label="Encryption" />
        <v-text-field v-model="form.from" label="From" type="email" />
        <v-text-field v-model="form.to" label="To, several with commas" />
        <v-text-field v-model="form.user" label="User, if the server asks" autocomplete="off" />
      </template>
      <v-text-field v-else v-model="form.url" label="Address (https)" />
      <v-text-field
        v-if="form.channel !== 'mail' || form.user"
        v-model="form.secret"
        :label="
          { mail: 'Password', webhook: 'Key, 16 characters at least', ticket: 'Token, if it asks for one' }[
            form.channel
          ]
        "
        type="password"
        autocomplete="new-password"
      />
      <v-select v-model="form.kinds" multiple :items="KINDS" label="Tell of" />
      <v-select v-model="form.severity" :items="SEVERITIES" label="Severity" />
      <div class="two">
        <v-select v-model="form.digest" :items="WHEN" label="When" /><v-text-field
          v-if="form.digest === 'day'"
          v-model="form.at"
          label="At"
          type="time"
        />
      </div>
      <div>
        <v-btn type="submit" variant="flat" :disabled="!ready">Keep it</v-btn>
        <v-btn variant="text" @click="adding = false">Leave</v-btn>
      </div>
    </form>
    <v-btn v-else-if="engagement.may.manage" size="small" @click="adding = true">Add an alert</v-btn>
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
.where {
  overflow-wrap: anywhere;
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
.said {
  display: block;
  overflow-wrap: anywhere;
}
.bad {
  color: rgb(var(--v-theme-fail));
}
</style>
