<script setup lang="ts">
import { type GroupTrial, tryGroup } from '@jurybox/api/groups'
import { onBeforeUnmount, ref, watch } from 'vue'
import { wordsOf } from '../api/client.ts'
import { useEngagement } from '../stores/engagement.ts'
import { usePolling } from './polling.ts'
import MemberNote from './MemberNote.vue'

/** Which devices a scope holds for as of B, while it is being written. */
const props = defineProps<{ text: string }>()
const engagement = useEngagement()
const { ask, stop } = usePolling()
const members = ref<GroupTrial | null>(null)
const wrong = ref('')
const PAUSE_MS = 350
let timer: ReturnType<typeof setTimeout> | undefined

watch(
  [() => props.text, () => engagement.b?.id],
  ([text]) => {
    clearTimeout(timer)
    wrong.value = ''
    if (text.trim() === '') return void (members.value = null)
    timer = setTimeout(async () => {
      try {
        const answer = await ask(tryGroup, { query: { kind: 'filter', text, snapshot: engagement.b?.id } })
        if (answer && text === props.text) members.value = answer
      } catch (error) {
        members.value = null
        wrong.value = wordsOf(error)
      }
    }, PAUSE_MS)
  },
  { immediate: true },
)
onBeforeUnmount(() => {
  clearTimeout(timer)
  stop()
})
</script>

<template>
  <p v-if="wrong" class="quiet" role="status">{{ wrong }}</p>
  <MemberNote
    v-else-if="members"
    :inside="members.inside"
    :outside="members.outside"
    :undecided="members.undecided.map(({ device }) => device)"
    :of="members.inside.length + members.outside.length + members.undecided.length"
  />
</template>
