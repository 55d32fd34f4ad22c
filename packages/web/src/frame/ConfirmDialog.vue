<script setup lang="ts">
import { computed } from 'vue'
import { useConfirm } from '../stores/confirm.ts'
import ModalDialog from '../shared/ModalDialog.vue'

/** Asks before something is deleted; Escape and Cancel keep it. */
const confirm = useConfirm()
const open = computed({
  get: () => confirm.question !== null,
  set: (wanted) => {
    if (!wanted) confirm.answer(false)
  },
})
</script>

<template>
  <ModalDialog v-model="open" :title="confirm.question?.title ?? ''">
    <p v-if="confirm.question?.text" class="text">{{ confirm.question.text }}</p>
    <template #actions>
      <v-btn variant="text" autofocus @click="confirm.answer(false)">{{ $t('common.cancel') }}</v-btn>
      <v-btn variant="flat" @click="confirm.answer(true)">{{ confirm.question?.action }}</v-btn>
    </template>
  </ModalDialog>
</template>

<style scoped>
.text {
  margin-top: 8px;
  max-width: 60ch;
}
</style>
