<script setup lang="ts">
import { ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { IntakeView } from '../api/types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useEngagement } from '../stores/engagement.ts'
import { filesOfDrop, type DroppedFile } from './dropped-files.ts'

/** Brings files in: dropped, chosen, a folder, a zip, or pasted text. */
const emit = defineEmits<{ read: [view: IntakeView] }>()
const engagement = useEngagement()
const over = ref(false)
const busy = ref('')
const problem = ref('')
const pasted = ref('')
const pasting = ref(false)

async function send(files: readonly DroppedFile[]): Promise<void> {
  if (files.length === 0) return
  busy.value = `Reading ${files.length} ${files.length === 1 ? 'file' : 'files'} …`
  problem.value = ''
  try {
    emit('read', await api.upload<IntakeView>(`${engagement.base}/intake`, files))
  } catch (error) {
    problem.value = wordsOf(error)
  } finally {
    busy.value = ''
  }
}
async function onDrop(event: DragEvent): Promise<void> {
  over.value = false
  if (event.dataTransfer) await send(await filesOfDrop(event.dataTransfer))
}
function onChoose(event: Event): void {
  const input = event.target as HTMLInputElement
  const files = [...(input.files ?? [])].map((file) => ({ path: file.webkitRelativePath || file.name, file }))
  // Choosing the same file again must be noticed too.
  input.value = ''
  void send(files)
}
function sendPasted(): void {
  void send([{ path: 'pasted.txt', file: new Blob([pasted.value]) }])
}
</script>

<template>
  <section
    class="zone panel"
    :class="{ over }"
    aria-label="Bring devices in"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="onDrop"
  >
    <div class="row">
      <div class="grow">
        <h2>Bring devices in</h2>
        <p class="quiet">
          Drop configuration files, a folder, or a zip here. One device a file, or a snapshot folder. Nothing is kept
          before you have seen what was read.
        </p>
      </div>
      <label class="choose"
        ><input
          id="choose-files"
          class="sr"
          type="file"
          multiple
          accept=".cfg,.conf,.txt,.zip,.yaml"
          @change="onChoose"
        /><span>Choose files</span></label
      >
      <label class="choose"
        ><input class="sr" type="file" webkitdirectory @change="onChoose" /><span>Choose a folder</span></label
      >
      <v-btn @click="pasting = !pasting">Paste</v-btn>
    </div>
    <form v-if="pasting" class="paste" @submit.prevent="sendPasted">
      <v-textarea v-model="pasted" label="A configuration as listed by the device" rows="6" class="mono" />
      <v-btn type="submit" :disabled="pasted.trim() === ''">Read it</v-btn>
    </form>
    <p v-if="busy" role="status">{{ busy }}</p>
    <ProblemNote :text="problem" />
  </section>
</template>

<style scoped>
.zone {
  padding: 14px 16px;
  border-style: dashed;
  border-width: 1.5px;
}
.over {
  border-color: rgb(var(--v-theme-primary));
  background: rgb(var(--v-theme-brass-fill));
}
.row {
  display: flex;
  align-items: center;
  gap: 10px;
  flex-wrap: wrap;
}
.grow {
  flex: 1 1 260px;
}
.choose span {
  display: inline-flex;
  align-items: center;
  height: 28px;
  padding: 0 16px;
  border: 1px solid rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-primary));
  border-radius: 3px;
  font-weight: 500;
  cursor: pointer;
}
.choose input:focus-visible + span {
  outline: 2px solid rgb(var(--v-theme-primary));
  outline-offset: 1px;
}
.paste {
  display: grid;
  gap: 8px;
  margin-top: 10px;
  justify-items: start;
}
.paste > :first-child {
  width: 100%;
}
</style>
