<script setup lang="ts">
import { BENCHMARK_FORMATS, exportBenchmark, importProfile } from '@jurybox/api/exchange'
import type { ResponseOf } from '@jurybox/api/endpoint'
import { ref } from 'vue'
import { addressOf, upload } from '../api/client.ts'
import { t } from '../messages/index.ts'
import ModalDialog from '../shared/ModalDialog.vue'
import NameList from '../shared/NameList.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { firstFile } from '../shared/files.ts'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'

/** A benchmark in the open formats of others: out, and a profile in. */
const props = defineProps<{ benchmark: string }>()
const emit = defineEmits<{ fitted: [] }>()
const engagement = useEngagement()
const open = ref(false)
const came = ref<ResponseOf<typeof importProfile> | null>(null)
const { problem, attempt } = useAttempt()
const TITLES: Readonly<Record<(typeof BENCHMARK_FORMATS)[number], string>> = {
  'oscal-catalog': t('benchmarks.oscalCatalog'),
  'oscal-profile': t('benchmarks.oscalProfile'),
  'oscal-component-definition': t('benchmarks.oscalComponents'),
  xccdf: t('benchmarks.xccdf'),
}
async function bring(chosen: File | File[] | null): Promise<void> {
  const file = firstFile(chosen)
  if (!file) return
  came.value = null
  const given = { params: { benchmark: props.benchmark } }
  await attempt(async () => {
    came.value = await upload(importProfile, [{ path: file.name, file }], given)
    emit('fitted')
  })
}
</script>

<template>
  <v-btn size="small" variant="outlined" @click="open = true">{{ $t('benchmarks.openFormats') }}</v-btn>
  <ModalDialog v-model="open" :title="$t('benchmarks.openFormats')">
    <ul class="formats">
      <li v-for="format in BENCHMARK_FORMATS" :key="format">
        <a :href="addressOf(exportBenchmark, { params: { benchmark, format } })" download>{{ TITLES[format] }}</a>
      </li>
    </ul>
    <template v-if="engagement.may.fit">
      <h3>{{ $t('benchmarks.importProfile') }}</h3>
      <p class="quiet">{{ $t('benchmarks.importProfileNote') }}</p>
      <v-file-input
        :label="$t('benchmarks.oscalProfile')"
        accept=".json,application/json"
        prepend-icon=""
        hide-details
        @update:model-value="bring"
      />
      <ProblemNote :text="problem" />
      <p v-if="came" role="status">
        {{ $t('benchmarks.profileCame', { values: came.values, tailored: came.tailored }) }}
      </p>
      <NameList v-if="came" :text="$t('common.notTakenOver', came.lost.count)" :named="came.lost" />
    </template>
    <template #actions>
      <v-btn variant="flat" @click="open = false">{{ $t('common.close') }}</v-btn>
    </template>
  </ModalDialog>
</template>

<style scoped>
.formats {
  margin: 0;
  padding-left: 18px;
}
h3 {
  font-size: 14px;
  margin-top: 12px;
}
</style>
