<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { keysAreOn, pageKeys } from '../shared/keys.ts'

/** F1: the keys of this page. */
const open = ref(false)
const route = useRoute()
/** The words of the product are a page of an engagement. */
const glossary = computed(() =>
  typeof route.params['engagement'] === 'string' ? `/e/${route.params['engagement']}/glossary` : null,
)
const ALWAYS = [
  { key: 'Ctrl K', does: 'Find anything' },
  { key: 'Alt ← / Alt →', does: 'Move handle B to the snapshot before or after' },
  { key: '↑ ↓', does: 'Move in a table or grid' },
  { key: 'Enter', does: 'Open what is focused' },
  { key: 'F1', does: 'This list' },
]
function hear(event: KeyboardEvent): void {
  // The dialog hears Escape itself only a moment after it has come up: who is faster would be left with it open, and
  // Tab caught in it.
  if (event.key === 'Escape') open.value = false
  if (event.key !== 'F1') return
  event.preventDefault()
  open.value = !open.value
}
onMounted(() => window.addEventListener('keydown', hear))
onBeforeUnmount(() => window.removeEventListener('keydown', hear))
</script>

<template>
  <v-dialog v-model="open" aria-label="Keys of this page">
    <v-card class="keys">
      <h2>Keys of this page</h2>
      <table class="rows">
        <tbody>
          <tr v-for="key in ALWAYS" :key="key.key">
            <td>
              <kbd>{{ key.key }}</kbd>
            </td>
            <td>{{ key.does }}</td>
          </tr>
          <tr v-for="key in pageKeys" :key="key.key">
            <td>
              <kbd>{{ key.key.toUpperCase() }}</kbd>
            </td>
            <td>{{ key.does }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="!keysAreOn" class="quiet">Keys without a modifier are switched off in the settings.</p>
      <div class="end">
        <v-btn v-if="glossary" :to="glossary" variant="text" @click="open = false">Open the glossary</v-btn>
        <v-btn @click="open = false">Close</v-btn>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.keys {
  padding: 18px 22px;
}
kbd {
  font-family: var(--mono);
  font-size: 12.5px;
}
.end {
  display: flex;
  justify-content: flex-end;
  margin-top: 12px;
}
</style>
