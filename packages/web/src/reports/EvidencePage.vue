<script setup lang="ts">
import {
  countersignPack,
  downloadPack,
  downloadRealPack,
  listPacks,
  makePack,
  makeRealPack,
  stampPack,
  downloadTimeRequest,
  uploadTimeAnswer,
  type PackView,
} from '@jurybox/api/evidence'
import { computed, ref, watch } from 'vue'
import { addressOf, call, downloadConfirmed, upload } from '../api/client.ts'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { firstFile } from '../shared/files.ts'
import { useAttempt } from '../shared/attempt.ts'
import type { Column } from '../shared/columns.ts'
import { useQuery } from '../shared/query.ts'
import { absoluteTime } from '../shared/time.ts'
import { sizeWords } from '../shared/words.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useJobs } from '../stores/jobs.ts'
import ReportsHead from './ReportsHead.vue'

/** Packs of evidence: made of the audit as of B, signed, countersigned, and downloaded to be verified elsewhere. */
const engagement = useEngagement()
const jobs = useJobs()
const { data: view, problem: unread, load } = useQuery(listPacks, () => ({}))
const { problem: refused, attempt } = useAttempt(() => load())
const problem = computed(() => refused.value || unread.value)
const asking = ref(false)
const withSecrets = ref(false)
const running = computed(() => jobs.running.some(({ kind }) => kind === 'evidence'))
// A pack that was made meanwhile is in the list.
watch(running, (isRunning, was) => {
  if (was && !isRunning) void load()
})
async function make(): Promise<void> {
  const audit = engagement.audit?.id
  if (audit === undefined) return
  const made = await attempt(() => call(withSecrets.value ? makeRealPack : makePack, { body: { audit } }))
  if (made) asking.value = false
}
const stamping = ref<PackView | null>(null)
async function keepAnswer(chosen: File | File[] | null): Promise<void> {
  const file = firstFile(chosen)
  const pack = stamping.value?.id
  if (!file || pack === undefined) return
  const kept = await attempt(() => upload(uploadTimeAnswer, [{ path: file.name, file }], { params: { pack } }))
  if (kept) stamping.value = null
}
const signers = (by: string, others: PackView['countersigned']): string =>
  [by, ...others.map((one) => one.by)].join(', ')
const columns: Column<PackView>[] = [
  { key: 'pack', title: t('reports.packNumber'), value: ({ id }) => id, numeric: true, plain: true },
  { key: 'snapshot', title: t('reports.packSnapshot'), value: ({ snapshot }) => snapshot.title },
  { key: 'made', title: t('reports.packMade'), value: ({ madeAt }) => absoluteTime(madeAt) },
  {
    key: 'signed',
    title: t('reports.packSignedBy'),
    value: ({ madeBy, countersigned }) => signers(madeBy, countersigned),
  },
  {
    key: 'secrets',
    title: t('reports.packSecrets'),
    value: ({ masked }) => (masked ? t('reports.packMasked') : t('reports.packReal')),
  },
  { key: 'files', title: t('reports.packFiles'), value: ({ files, size }) => `${files}, ${sizeWords(size)}` },
  { key: 'actions', title: t('reports.packActions'), value: () => '', acts: true },
]
const addressOfPack = ({ id, masked }: PackView): string =>
  addressOf(masked ? downloadPack : downloadRealPack, { params: { pack: id } })
</script>

<template>
  <div class="page">
    <ReportsHead :note="$t('reports.evidencePacksNote')">
      <v-btn v-if="engagement.may.run && engagement.audit" variant="flat" :disabled="running" @click="asking = true">{{
        $t('reports.makePack')
      }}</v-btn>
    </ReportsHead>
    <ProblemNote :text="problem" />
    <EmptyPage
      v-if="view && view.packs.length === 0"
      :title="$t('reports.noPacks')"
      :text="engagement.audit ? $t('reports.noPacksText') : $t('reports.noPacksWithoutAudit')"
    />
    <template v-else-if="view">
      <section v-if="view.key" class="panel key" :aria-label="$t('reports.signingKey')">
        <h2>{{ $t('reports.signingKey') }}</h2>
        <p class="mono">{{ view.key.fingerprint }}</p>
        <p class="quiet">
          {{ $t('reports.signingKeyNote') }}
          <a href="/verify.html" download="verify.html">{{ $t('reports.downloadVerifyPage') }}</a>
        </p>
      </section>
      <DataTable
        class="panel"
        :label="$t('reports.evidencePacks')"
        :rows="view.packs"
        :columns="columns"
        :row-key="({ id }) => id"
      >
        <template #files="{ row }">
          {{ row.files }}, {{ sizeWords(row.size) }}
          <div v-if="row.notReproduced > 0" class="quiet">
            {{ $t('reports.packNotReproduced', row.notReproduced) }}
          </div>
        </template>
        <template #made="{ row }">
          {{ absoluteTime(row.madeAt) }}
          <div v-if="row.stamped" class="quiet">
            {{ $t('reports.stampedBy', { at: absoluteTime(row.stamped.at), authority: row.stamped.authority }) }}
          </div>
        </template>
        <template #actions="{ row }">
          <v-btn
            v-if="row.masked && engagement.may.run"
            size="small"
            variant="text"
            :href="addressOfPack(row)"
            :aria-label="$t('reports.downloadPackOf', { pack: row.id })"
            download
            >{{ $t('reports.download') }}</v-btn
          >
          <v-btn
            v-else-if="!row.masked && engagement.may.exportSecrets"
            size="small"
            variant="text"
            :aria-label="$t('reports.downloadPackOf', { pack: row.id })"
            @click="attempt(() => downloadConfirmed(addressOfPack(row)))"
            >{{ $t('reports.download') }}</v-btn
          >
          <template v-if="engagement.may.run && !row.stamped">
            <v-btn
              v-if="view.hasTimeAuthority"
              size="small"
              variant="text"
              :aria-label="$t('reports.stampPack', { pack: row.id })"
              @click="attempt(() => call(stampPack, { params: { pack: row.id } }))"
              >{{ $t('reports.stamp') }}</v-btn
            >
            <v-btn
              v-else
              size="small"
              variant="text"
              :aria-label="$t('reports.stampPack', { pack: row.id })"
              @click="stamping = row"
              >{{ $t('reports.stamp') }}</v-btn
            >
          </template>
          <v-btn
            v-if="engagement.may.run && row.mayCountersign"
            size="small"
            variant="text"
            :aria-label="$t('reports.countersignPack', { pack: row.id })"
            @click="attempt(() => call(countersignPack, { params: { pack: row.id } }))"
            >{{ $t('reports.countersign') }}</v-btn
          >
        </template>
      </DataTable>
    </template>
    <ModalDialog v-if="stamping" :model-value="true" :title="$t('reports.stamp')" @update:model-value="stamping = null">
      <ProblemNote :text="problem" />
      <ol class="steps">
        <li>
          <a :href="addressOf(downloadTimeRequest, { params: { pack: stamping.id } })" download>{{
            $t('reports.downloadTimeRequest')
          }}</a>
        </li>
        <li>{{ $t('reports.takeToAuthority') }}</li>
      </ol>
      <v-file-input
        :label="$t('reports.timeAnswer')"
        accept=".tsr,application/timestamp-reply"
        prepend-icon=""
        hide-details
        @update:model-value="keepAnswer"
      />
      <template #actions>
        <v-btn variant="text" @click="stamping = null">{{ $t('common.cancel') }}</v-btn>
      </template>
    </ModalDialog>
    <ModalDialog v-if="asking" v-model="asking" :title="$t('reports.makePack')">
      <p>{{ $t('reports.makePackText', { snapshot: engagement.b?.title ?? '' }) }}</p>
      <v-checkbox
        v-if="engagement.may.exportSecrets"
        v-model="withSecrets"
        :label="$t('reports.includeSecrets')"
        hide-details
      />
      <template #actions>
        <v-btn variant="text" @click="asking = false">{{ $t('common.cancel') }}</v-btn>
        <v-btn variant="flat" @click="make">{{ $t('reports.makePack') }}</v-btn>
      </template>
    </ModalDialog>
  </div>
</template>

<style scoped>
.key {
  padding: 12px 16px;
  margin-bottom: 12px;
}
.key h2 {
  font-size: 15px;
  margin: 0;
}
.mono {
  font-family: var(--mono);
  font-size: 13px;
  overflow-wrap: anywhere;
}
</style>
