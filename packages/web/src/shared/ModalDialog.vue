<script setup lang="ts">
import { onBeforeUnmount, watch } from 'vue'

/**
 * A dialog: its title, what it holds, its buttons at the end. When it goes, the focus is where it was before; the
 * dialog's own key handling would leave it in what is fading away, where no key of the page is heard.
 */
const props = withDefaults(defineProps<{ title: string; width?: number | string }>(), { width: 560 })
const open = defineModel<boolean>({ default: true })
defineSlots<{ default?: () => unknown; title?: () => unknown; actions?: () => unknown }>()

let before: Element | null = null
function giveBack(): void {
  const was = before
  before = null
  // Whoever closed it may have put the focus elsewhere, such as on the next step.
  const here = document.activeElement
  const isOurs = here === null || here === document.body || here.closest('.v-overlay') !== null
  if (!isOurs) return
  // A page without focus takes none: then what fades away has to let go of it.
  if (was instanceof HTMLElement && was.isConnected && was !== document.body) was.focus({ preventScroll: true })
  else if (here instanceof HTMLElement) here.blur()
}
watch(
  open,
  (isOpen, wasOpen) => {
    if (isOpen) before = document.activeElement
    // One that was never open has nothing to give back: another may be open, and be typed into.
    else if (wasOpen === true) giveBack()
  },
  { immediate: true, flush: 'post' },
)
onBeforeUnmount(() => open.value && giveBack())
</script>

<template>
  <v-dialog v-model="open" :max-width="props.width" :aria-label="props.title">
    <v-card class="modal">
      <h2>
        <slot name="title">{{ props.title }}</slot>
      </h2>
      <slot />
      <div v-if="$slots.actions" class="end"><slot name="actions" /></div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.modal {
  padding: 20px 24px;
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin-top: 16px;
}
</style>
