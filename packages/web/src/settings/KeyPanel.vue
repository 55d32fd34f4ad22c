<script setup lang="ts">
import { type InstallationView, changeKey, getInstallation } from '@jurybox/api/installation'
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { wordsOf, call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { grouped } from '../shared/numbers.ts'

const emit = defineEmits<{ changed: [] }>()
const view = ref<InstallationView | null>(null)
const problem = ref('')
let timer: ReturnType<typeof setTimeout> | undefined

async function load(): Promise<void> {
  try {
    const before = view.value?.key.change.state
    view.value = await call(getInstallation)
    if (view.value.key.change.state === 'running') timer = setTimeout(() => void load(), 1000)
    else if (before === 'running') emit('changed')
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
async function change(): Promise<void> {
  problem.value = ''
  try {
    await call(changeKey)
    await load()
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
onMounted(load)
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
