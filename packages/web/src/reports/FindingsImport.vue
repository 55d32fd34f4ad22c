<script setup lang="ts">
import { compareResults, importPlanOfAction } from '@jurybox/api/exchange'
import type { ResponseOf } from '@jurybox/api/endpoint'
import { ref } from 'vue'
import { upload } from '../api/client.ts'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import ModalDialog from '../shared/ModalDialog.vue'
import NameList from '../shared/NameList.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { firstFile } from '../shared/files.ts'
import { useAttempt } from '../shared/attempt.ts'
import type { Column } from '../shared/columns.ts'
import { useEngagement } from '../stores/engagement.ts'

/** What others say of findings: the state in a plan of action, and results of other tools beside ours. */
const props = defineProps<{ audit: number }>()
const engagement = useEngagement()
const open = ref(false)
const plan = ref<ResponseOf<typeof importPlanOfAction> | null>(null)
const compared = ref<ResponseOf<typeof compareResults> | null>(null)
const { problem, attempt } = useAttempt()
type Differing = ResponseOf<typeof compareResults>['differing'][number]
const columns: Column<Differing>[] = [
  { key: 'device', title: t('common.device'), value: ({ device }) => device },
  { key: 'rule', title: t('common.rule'), value: ({ rule }) => rule },
  { key: 'ours', title: t('reports.ours'), value: ({ ours }) => ours },
  { key: 'theirs', title: t('reports.theirs'), value: ({ theirs }) => theirs },
]
async function bring(chosen: File | File[] | null, what: 'plan' | 'results'): Promise<void> {
  const file = firstFile(chosen)
  if (!file) return
  plan.value = null
  compared.value = null
  const given = { params: { audit: props.audit } }
  const files = [{ path: file.name, file }]
  await attempt(async () => {
    if (what === 'plan') plan.value = await upload(importPlanOfAction, files, given)
    else compared.value = await upload(compareResults, files, given)
  })
}
</script>

<template>
  <v-btn variant="tonal" size="small" @click="open = true">{{ $t('reports.importResults') }}</v-btn>
  <ModalDialog v-model="open" :title="$t('reports.importResults')" :width="640">
    <ProblemNote :text="problem" />
    <template v-if="engagement.may.remediate">
      <h3>{{ $t('reports.planOfAction') }}</h3>
      <p class="quiet">{{ $t('reports.planOfActionNote') }}</p>
      <v-file-input
        :label="$t('reports.planOfActionFile')"
        accept=".json,application/json"
        prepend-icon=""
        hide-details
        @update:model-value="(file) => bring(file, 'plan')"
      />
      <p v-if="plan" role="status">
        {{ $t('reports.planCame', { changed: plan.changed, unchanged: plan.unchanged }) }}
      </p>
      <template v-if="plan">
        <NameList :text="$t('reports.planUnknown', plan.unknown.count)" :named="plan.unknown" />
        <NameList :text="$t('common.notTakenOver', plan.lost.count)" :named="plan.lost" />
      </template>
    </template>
    <h3>{{ $t('reports.otherResults') }}</h3>
    <p class="quiet">{{ $t('reports.otherResultsNote') }}</p>
    <v-file-input
      :label="$t('reports.otherResultsFile')"
      accept=".xml,.json,application/xml,application/json"
      prepend-icon=""
      hide-details
      @update:model-value="(file) => bring(file, 'results')"
    />
    <template v-if="compared">
      <p role="status">
        {{ $t('reports.otherCame', { same: compared.same, differing: compared.differing.length }) }}
      </p>
      <NameList :text="$t('reports.planUnknown', compared.unknown.count)" :named="compared.unknown" />
      <NameList :text="$t('common.notTakenOver', compared.lost.count)" :named="compared.lost" />
      <DataTable
        v-if="compared.differing.length > 0"
        :label="$t('reports.otherResults')"
        :rows="compared.differing"
        :columns="columns"
      />
    </template>
    <template #actions>
      <v-btn variant="flat" @click="open = false">{{ $t('common.close') }}</v-btn>
    </template>
  </ModalDialog>
</template>

<style scoped>
.v-file-input {
  margin: 10px 0 6px;
}
h3 {
  font-size: 14px;
  margin-top: 12px;
}
</style>
