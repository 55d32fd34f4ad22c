<script setup lang="ts">
import type { ActivityView } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import { grouped } from '../shared/numbers.ts'

defineProps<{ activity: ActivityView; of: string }>()
</script>

<template>
  <section class="panel block">
    <h2>Audit log</h2>
    <p class="quiet">
      {{
        activity.firstBreak === null
          ? 'The chain of entries is whole.'
          : `The chain is broken at entry ${activity.firstBreak}.`
      }}
      {{ grouped(activity.total) }} entries {{ of }}.
    </p>
    <table class="rows">
      <thead>
        <tr>
          <th scope="col">When</th>
          <th scope="col">Who</th>
          <th scope="col">What</th>
          <th scope="col">Detail</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="entry in activity.entries" :key="entry.id">
          <td><AgeText :at="entry.at" /></td>
          <td>{{ entry.user ?? '—' }}</td>
          <td>{{ entry.action }}</td>
          <td class="mono detail">{{ JSON.stringify(entry.detail) }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.block {
  padding: 14px 18px;
  margin-top: 14px;
  display: grid;
  gap: 8px;
}
.detail {
  overflow-wrap: anywhere;
}
</style>
