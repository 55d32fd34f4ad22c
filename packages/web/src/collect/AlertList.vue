<script setup lang="ts">
import { useConfirm } from '../stores/confirm.ts'
import { t } from '../messages/index.ts'
import type { AlertKind } from '@jurybox/api/channel'
import type { BodyOf } from '@jurybox/api/endpoint'
import {
  type AlertRow,
  type DeliveryRow,
  addAlert,
  deleteAlert,
  listAlerts,
  pauseAlert,
  testAlert,
} from '@jurybox/api/alerts'
import { computed, reactive, ref, watch } from 'vue'
import { call } from '../api/client.ts'
import { useAskedAction } from '../shared/asked-action.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import TimeField from '../shared/TimeField.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useJobs } from '../stores/jobs.ts'

const confirm = useConfirm()

/** Who is told of what happens, how, and what became of the last messages. */
const engagement = useEngagement()
const jobs = useJobs()
const adding = ref(false)
useAskedAction('add-alert', () => engagement.may.manage && (adding.value = true))
const emit = defineEmits<{ changed: [] }>()
const { data, problem, fields, load, attempt } = useQuery(listAlerts, () => ({}), { changed: () => emit('changed') })
const alerts = computed(() => data.value ?? [])
const blank = () => ({
  title: '',
  channel: 'mail' as AlertRow['channel'],
  host: '',
  port: 587,
  tls: 'starttls' as 'none' | 'starttls' | 'tls',
  from: '',
  to: '',
  user: '',
  url: '',
  secret: '',
  kinds: ['new', 'drift', 'collection'] as AlertKind[],
  severity: 'medium' as BodyOf<typeof addAlert>['severity'],
  digest: 'once',
  at: '07:00',
})
const form = reactive(blank())
const CHANNELS = [
  { value: 'mail', title: t('collect.mail') },
  { value: 'webhook', title: t('collect.webhookSigned') },
  { value: 'ticket', title: t('collect.ticket') },
]
const TLS = [
  { value: 'tls', title: t('collect.tlsFromTheStart') },
  { value: 'starttls', title: t('collect.starttls') },
  { value: 'none', title: t('collect.notEncrypted') },
]
const KINDS = [
  { value: 'new', title: t('collect.newFindings') },
  { value: 'resolved', title: t('collect.resolvedFindings') },
  { value: 'drift', title: t('collect.changedConfigurations') },
  { value: 'collection', title: t('collect.failedCollections') },
  { value: 'expectation', title: t('collect.violatedExpectations') },
  { value: 'assigned', title: t('collect.assignedFindings') },
  { value: 'overdue', title: t('collect.overdueFindings') },
  { value: 'appeared', title: t('collect.newDevices') },
  { value: 'vanished', title: t('collect.vanishedDevices') },
  { value: 'request', title: t('collect.requestedAnswers') },
  { value: 'report', title: t('collect.newReports') },
]
const SEVERITIES = ['info', 'low', 'medium', 'high'].map((value) => ({
  value,
  title: value === 'info' ? 'all' : `${value}${value === 'high' ? '' : t('collect.orHigher')}`,
}))
const WHEN = [
  { value: 'once', title: t('collect.immediately') },
  { value: 'day', title: t('collect.dailySummary') },
]
const STATES: Readonly<Record<DeliveryRow['state'], string>> = {
  waiting: 'waits',
  sending: t('collect.beingSent'),
  sent: 'sent',
  failed: 'failed',
  unsure: t('collect.deliveryUnconfirmed'),
}

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
  const target: BodyOf<typeof addAlert>['to'] =
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
    call(addAlert, {
      body: {
        title,
        to: target,
        ...(secret ? { secret } : {}),
        kinds,
        severity,
        ...(digest === 'day'
          ? { digest: { every: 'day', at }, zone: Intl.DateTimeFormat().resolvedOptions().timeZone }
          : {}),
      },
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
    <h2>{{ $t('collect.alerts') }}</h2>
    <ProblemNote :text="problem" />
    <p v-if="alerts.length === 0 && !adding" class="quiet">{{ $t('collect.noAlertsYetAddOne') }}</p>
    <article v-for="one in alerts" :key="one.id" class="one">
      <b>{{ one.title }}</b>
      <p>
        {{ $t('collect.to', { channels: CHANNELS.find(({ value }) => value === one.channel)?.title }) }}
        <span class="where">{{ whereTo(one) }}</span>
      </p>
      <p class="quiet">
        {{ wordsFor(one.kinds) }}, {{ SEVERITIES.find(({ value }) => value === one.severity)?.title }}, {{ one.when }}
      </p>
      <p v-if="one.paused" class="quiet">{{ $t('collect.paused') }}</p>
      <details v-if="one.deliveries[0]" :open="one.deliveries[0].state !== 'sent'">
        <summary>
          {{ $t('collect.lastDelivery', { state: STATES[one.deliveries[0].state] }) }}
          <AgeText :at="doneWith(one.deliveries[0])" />
        </summary>
        <ol>
          <li
            v-for="delivery in one.deliveries"
            :key="delivery.id"
            :class="{ bad: ['failed', 'unsure'].includes(delivery.state) }"
          >
            {{ STATES[delivery.state] }}<template v-if="delivery.test">{{ $t('collect.test') }}</template>
            <AgeText :at="doneWith(delivery)" /><template v-if="delivery.attempts > 1">{{
              $t('collect.attempts', { attempts: delivery.attempts })
            }}</template
            ><span v-if="delivery.said" class="quiet said">{{ delivery.said }}</span>
          </li>
        </ol>
      </details>
      <div v-if="engagement.may.manage">
        <v-btn
          size="small"
          variant="text"
          :aria-label="$t('collect.sendTestOf', { title: one.title })"
          @click="attempt(() => call(testAlert, { params: { alert: one.id } }))"
          >{{ $t('collect.sendTest') }}</v-btn><v-btn
          size="small"
          variant="text"
          :aria-label="`${one.paused ? $t('collect.resume') : $t('collect.pause')} ${one.title}`"
          @click="attempt(() => call(pauseAlert, { params: { alert: one.id }, body: { paused: !one.paused } }))"
          >{{ one.paused ? $t('collect.resume') : $t('collect.pause') }}</v-btn
        ><v-btn
          size="small"
          variant="text"
          :aria-label="$t('collect.delete', { title: one.title })"
          @click="
            confirm.deletion($t('collect.kindAlert'), one.title, () =>
              attempt(() => call(deleteAlert, { params: { alert: one.id } })),
            )
          "
          >{{ $t('common.delete') }}</v-btn
        >
      </div>
    </article>
    <form v-if="adding" class="form" autocomplete="off" @submit.prevent="add">
      <v-text-field v-model="form.title" :error-messages="fields['title']" :label="$t('collect.titleOfTheAlert')" />
      <v-select
        v-model="form.channel"
        :error-messages="fields['channel']"
        :items="CHANNELS"
        :label="$t('collect.channel')"
      />
      <template v-if="form.channel === 'mail'">
        <div class="two">
          <v-text-field
            v-model="form.host"
            :error-messages="fields['host']"
            :label="$t('collect.mailServer')"
          /><v-text-field
            v-model="form.port"
            :error-messages="fields['port']"
            :label="$t('collect.port')"
            type="number"
          />
        </div>
        <v-select v-model="form.tls" :error-messages="fields['tls']" :items="TLS" :label="$t('common.encryption')" />
        <v-text-field v-model="form.from" :error-messages="fields['from']" :label="$t('common.from')" type="email" />
        <v-text-field v-model="form.to" :error-messages="fields['to']" :label="$t('collect.toSeparateWithCommas')" />
        <v-text-field
          v-model="form.user"
          :error-messages="fields['user']"
          :label="$t('collect.userIfTheServerRequires')"
          autocomplete="off"
        />
      </template>
      <v-text-field v-else v-model="form.url" :error-messages="fields['url']" :label="$t('collect.urlHttps')" />
      <v-text-field
        v-if="form.channel !== 'mail' || form.user"
        v-model="form.secret"
        :error-messages="fields['secret']"
        :label="
          {
            mail: $t('common.password'),
            webhook: $t('collect.signingKeyAtLeast16'),
            ticket: $t('collect.tokenIfRequired'),
          }[form.channel]
        "
        type="password"
        autocomplete="new-password"
      />
      <v-select
        v-model="form.kinds"
        :error-messages="fields['kinds']"
        multiple
        :items="KINDS"
        :label="$t('collect.events')"
      />
      <v-select
        v-model="form.severity"
        :error-messages="fields['severity']"
        :items="SEVERITIES"
        :label="$t('common.severity')"
      />
      <div class="two">
        <v-select
          v-model="form.digest"
          :error-messages="fields['digest']"
          :items="WHEN"
          :label="$t('collect.delivery')"
        /><TimeField
          v-if="form.digest === 'day'"
          v-model="form.at"
          :error-messages="fields['at']"
          :label="$t('common.time')"
        />
      </div>
      <div>
        <v-btn type="submit" variant="flat" :disabled="!ready">{{ $t('common.save') }}</v-btn>
        <v-btn variant="text" @click="adding = false">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
    <v-btn v-else-if="engagement.may.manage" size="small" @click="adding = true">{{ $t('collect.addAlert') }}</v-btn>
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
