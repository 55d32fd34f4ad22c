<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { useRouter } from 'vue-router'
import { useToasts, type Toast } from '../stores/toasts.ts'

/** Short messages at the foot of the page: what ended, what was done, and the way to undo it. */
const toasts = useToasts()
const router = useRouter()

function act({ id, action }: Toast): void {
  toasts.dismiss(id)
  action?.run()
}
function go({ id, to }: Toast): void {
  toasts.dismiss(id)
  if (to) void router.push(to)
}
</script>

<template>
  <div class="toasts" role="status" aria-live="polite">
    <div v-for="toast in toasts.toasts" :key="toast.id" class="toast" :class="toast.tone">
      <span class="text">{{ toast.text }}</span>
      <button v-if="toast.to" type="button" class="as-link" @click="go(toast)">{{ $t('frame.show') }}</button>
      <button v-if="toast.action" type="button" class="as-link" @click="act(toast)">{{ toast.action.title }}</button>
      <button type="button" class="close" :aria-label="$t('frame.dismiss')" @click="toasts.dismiss(toast.id)">
        <v-icon :icon="mdiClose" size="16" />
      </button>
    </div>
  </div>
</template>

<style scoped>
.toasts {
  position: fixed;
  left: 50%;
  bottom: 18px;
  transform: translateX(-50%);
  z-index: 3000;
  display: flex;
  flex-direction: column;
  gap: 8px;
  max-width: min(640px, 92vw);
}
.toast {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 9px 14px;
  border: 1px solid rgb(var(--v-theme-primary));
  border-left-width: 4px;
  border-radius: 3px;
  background: rgb(var(--v-theme-surface));
}
.fail {
  border-color: rgb(var(--v-theme-fail));
}
.text {
  flex: 1;
}
.close {
  cursor: pointer;
  min-width: 24px;
  min-height: 24px;
}
@media print {
  .toasts {
    display: none;
  }
}
</style>
