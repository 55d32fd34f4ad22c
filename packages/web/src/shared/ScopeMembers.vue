<script setup lang="ts">
import { tryGroup } from '@jurybox/api/groups'
import { useEngagement } from '../stores/engagement.ts'
import MemberNote from './MemberNote.vue'
import { useQuery } from './query.ts'
import { useSettled } from './settled.ts'

/** Which devices a scope holds for as of B, while it is being written. */
const props = defineProps<{ text: string }>()
const engagement = useEngagement()
const text = useSettled(() => props.text.trim())
const { data: members, problem: wrong } = useQuery(tryGroup, () =>
  text.value === '' ? null : { query: { kind: 'filter' as const, text: text.value, snapshot: engagement.b?.id } },
)
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
