<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { InstallationView } from '../api/types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { grouped } from '../shared/numbers.ts'

const emit = defineEmits<{ changed: [] }>()
const view = ref<InstallationView | null>(null)
const problem = ref('')
let timer: ReturnType<typeof setTimeout> | undefined

async function load(): Promise<void> {
  try {
    const before = view.value?.key.change.state
    view.value = await api.get<InstallationView>('/installation')
    if (view.value.key.change.state === 'running') timer = setTimeout(() => void load(), 1000)
    else if (before === 'running') emit('changed')
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
async function change(): Promise<void> {
  problem.value = ''
  try {
    await api.post('/installation/key')
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
    <h2>Encryption key</h2>
    <p v-if="view.key.source === 'environment'" class="quiet">
      The key comes from the environment of the server. To change it, stop the server and run
      <code>./jurybox rotate-key</code> with the new key in JURYBOX_NEW_KEY.
    </p>
    <template v-else>
      <p class="quiet">
        The key lies in the data folder, in the file <code>key</code>. Everything stored is sealed with it. Keep a copy
        apart from your backups.
      </p>
      <p v-if="view.key.change.state === 'running'" role="status">Changing the key … You can go on working.</p>
      <p v-else-if="view.key.change.state === 'done'" role="status">
        The key was changed: {{ grouped(view.key.change.sealed) }} items are sealed with the new one.
      </p>
      <p v-else-if="view.key.change.state === 'failed'" role="alert">
        The change was interrupted. Nothing is lost; try again.
      </p>
      <ProblemNote :text="problem" />
      <v-btn :loading="view.key.change.state === 'running'" @click="change">Change key</v-btn>
    </template>
    <h2>Server</h2>
    <p class="quiet">
      Build {{ view.build.slice(0, 12) }} · {{ grouped(view.freeDiskMb) }} MB of disk free · longest block of the main
      thread {{ grouped(view.longestBlockMs) }} ms
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
