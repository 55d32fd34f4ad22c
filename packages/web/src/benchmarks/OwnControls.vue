<script setup lang="ts">
import type { ResponseOf } from '@jurybox/api/endpoint'
import { listFrameworks } from '@jurybox/api/benchmarks'
import { deleteFramework, exportFramework, importFramework } from '@jurybox/api/exchange'
import { ref } from 'vue'
import { addressOf, call, upload } from '../api/client.ts'
import NameList from '../shared/NameList.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { firstFile } from '../shared/files.ts'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'

/** Frameworks that something speaks to, as catalogs, and own controls of the engagement that are imported as one. */
const engagement = useEngagement()
const { data: frameworks, problem, attempt } = useQuery(listFrameworks, () => ({}))
const came = ref<ResponseOf<typeof importFramework> | null>(null)
async function bring(chosen: File | File[] | null): Promise<void> {
  const file = firstFile(chosen)
  if (!file) return
  came.value = null
  await attempt(async () => {
    came.value = await upload(importFramework, [{ path: file.name, file }])
  })
}
</script>

<template>
  <section class="panel controls">
    <h2>{{ $t('benchmarks.frameworks') }}</h2>
    <ProblemNote :text="problem" />
    <ul>
      <li v-for="one in frameworks" :key="one.id">
        <a :href="addressOf(exportFramework, { params: { name: one.id } })" download>{{ one.title }}</a>{{ ' ' }}
        <span class="quiet">{{ $t('benchmarks.requirementCount', one.requirements) }}</span>
        <v-btn
          v-if="one.own && engagement.may.fit"
          size="x-small"
          variant="text"
          :aria-label="$t('benchmarks.deleteControls', { title: one.title })"
          @click="attempt(() => call(deleteFramework, { params: { name: one.id } }))"
          >{{ $t('common.delete') }}</v-btn
        >
      </li>
    </ul>
    <template v-if="engagement.may.fit">
      <p class="quiet">{{ $t('benchmarks.importControlsNote') }}</p>
      <v-file-input
        class="file"
        :label="$t('benchmarks.importControls')"
        accept=".json,application/json"
        prepend-icon=""
        density="compact"
        hide-details
        @update:model-value="bring"
      />
      <p v-if="came" role="status">
        {{ $t('benchmarks.controlsCame', { title: came.title, requirements: came.requirements }) }}
      </p>
      <NameList v-if="came" :text="$t('common.notTakenOver', came.lost.count)" :named="came.lost" />
    </template>
  </section>
</template>

<style scoped>
.controls {
  margin-top: 14px;
  padding: 14px 18px;
  display: grid;
  gap: 8px;
}
ul {
  margin: 0;
  padding-left: 18px;
}
.file {
  max-width: 520px;
}
</style>
