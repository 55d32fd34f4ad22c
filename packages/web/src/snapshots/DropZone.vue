<script setup lang="ts">
import { t } from '../messages/index.ts'
import { type IntakeView, stageFiles } from '@jurybox/api/snapshots'
import { ref } from 'vue'
import { wordsOf, upload } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { filesOfDrop, type DroppedFile } from './dropped-files.ts'

/** Brings files in: dropped, chosen, a folder, a zip, or pasted text. */
const emit = defineEmits<{ read: [view: IntakeView] }>()
const over = ref(false)
const busy = ref('')
const problem = ref('')
const pasted = ref('')
const pasting = ref(false)

async function send(files: readonly DroppedFile[]): Promise<void> {
  if (files.length === 0) return
  busy.value = t('snapshots.reading', { files: files.length, files2: files.length === 1 ? 'file' : 'files' })
  problem.value = ''
  try {
    emit('read', await upload(stageFiles, files))
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
    :aria-label="$t('common.importConfigurations')"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="onDrop"
  >
    <div class="row">
      <div class="grow">
        <h2>{{ $t('common.importConfigurations') }}</h2>
        <p class="quiet">
          {{ $t('snapshots.dropConfigurationFilesAFolder') }}
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
        /><span>{{ $t('snapshots.selectFiles') }}</span></label
      >
      <label class="choose"
        ><input class="sr" type="file" webkitdirectory @change="onChoose" /><span>{{
          $t('snapshots.selectFolder')
        }}</span></label
      >
      <v-btn @click="pasting = !pasting">{{ $t('snapshots.paste') }}</v-btn>
    </div>
    <form v-if="pasting" class="paste" @submit.prevent="sendPasted">
      <v-textarea v-model="pasted" :label="$t('snapshots.configurationAsListedByThe')" rows="6" class="mono" />
      <v-btn type="submit" :disabled="pasted.trim() === ''">{{ $t('snapshots.import') }}</v-btn>
    </form>
    <p v-if="busy" role="status">{{ busy }}</p>
    <ProblemNote :text="problem" />
  </section>
</template>

<style scoped>
@media print {
  .zone {
    display: none;
  }
}
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
