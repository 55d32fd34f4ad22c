<script setup lang="ts">
import { changeKey, getInstallation } from '@jurybox/api/installation'
import { onBeforeUnmount, watch } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { grouped } from '../shared/numbers.ts'

const emit = defineEmits<{ changed: [] }>()
const { data: view, problem, load, attempt } = useQuery(getInstallation, () => ({}))
const change = () => attempt(() => call(changeKey))
/** While the key is being changed, it is asked how far that is. */
let timer: ReturnType<typeof setTimeout> | undefined
watch(view, (now, before) => {
  if (now?.key.change.state === 'running') timer = setTimeout(() => void load(), 1000)
  else if (before?.key.change.state === 'running') emit('changed')
})
onBeforeUnmount(() => clearTimeout(timer))
</script>

<template>
  <section v-if="view" class="panel block">
    <h2>{{ $t('settings.encryptionKey') }}</h2>
    <p v-if="view.key.source === 'environment'" class="quiet">
      {{ $t('settings.theMasterKeyComesFrom') }}
      <code>./jurybox rotate-key</code> {{ $t('settings.withTheNewKeyIn') }}
    </p>
    <template v-else>
      <p class="quiet">
        {{ $t('settings.theMasterKeyIsStored') }} <code>{{ $t('settings.key') }}</code>{{
          $t('settings.everythingStoredIsEncryptedWith')
        }}
      </p>
      <p v-if="view.key.change.state === 'running'" role="status">{{ $t('settings.changingTheKeyYouCan') }}</p>
      <p v-else-if="view.key.change.state === 'done'" role="status">
        {{ $t('settings.keyChangedItemsReEncrypted', { sealed: grouped(view.key.change.sealed) }) }}
      </p>
      <p v-else-if="view.key.change.state === 'failed'" role="alert">
        {{ $t('settings.theKeyChangeWasInterrupted') }}
      </p>
      <ProblemNote :text="problem" />
      <v-btn :loading="view.key.change.state === 'running'" @click="change">{{ $t('settings.changeKey') }}</v-btn>
    </template>
    <h2>{{ $t('settings.server') }}</h2>
    <p class="quiet">
      {{
        $t('settings.buildMbDiskSpaceFree', {
          build: view.build.slice(0, 12),
          freeDiskMb: grouped(view.freeDiskMb),
          longestBlockMs: grouped(view.longestBlockMs),
        })
      }}
    </p>
  </section>
  <ProblemNote v-else :text="problem" />
</template>

<style scoped>
.block {
  padding: 14px 18px;
  margin-top: 14px;
  display: grid;
  gap: 8px;
  justify-items: start;
}
</style>
