<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useEngagement } from '../stores/engagement.ts'
import JobRing from './JobRing.vue'
import SearchField from './SearchField.vue'

/** Engagement and place, the search field, long-running work. */
const engagement = useEngagement()
const route = useRoute()
const place = computed(() => String(route.meta['title'] ?? ''))
</script>

<template>
  <header class="bar">
    <div class="where">
      <strong>{{ engagement.view?.title }}</strong><span class="quiet" aria-hidden="true">▸</span
      ><span>{{ place }}</span>
    </div>
    <SearchField />
    <div class="work"><JobRing /></div>
  </header>
</template>

<style scoped>
.bar {
  height: 48px;
  flex: none;
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(200px, 380px) minmax(0, 1fr);
  align-items: center;
  gap: 16px;
  padding: 0 14px;
  border-bottom: var(--hair);
  background: rgb(var(--v-theme-surface));
}
.where {
  display: flex;
  gap: 8px;
  white-space: nowrap;
  overflow: hidden;
  min-width: 0;
}
.where strong {
  overflow: hidden;
  text-overflow: ellipsis;
  font-weight: 600;
}
.work {
  display: flex;
  justify-content: flex-end;
  align-items: center;
}
</style>
