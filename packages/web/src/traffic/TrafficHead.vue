<script setup lang="ts">
import { useRoute } from 'vue-router'
import { useEngagement } from '../stores/engagement.ts'

/** Traffic from its sides: what is expected, what people ask, what is odd about filters. */
defineProps<{ note: string }>()
const engagement = useEngagement()
const route = useRoute()
const SIDES = [
  { path: 'traffic', title: 'Expectations' },
  { path: 'traffic/ask', title: 'Ask' },
  { path: 'traffic/filters', title: 'Filters' },
]
const here = (path: string): boolean => route.path === `/e/${engagement.id}/${path}`
</script>

<template>
  <div class="page-head">
    <div class="grow"><h1>Traffic</h1><p class="quiet">{{ note }}</p></div>
    <slot />
  </div>
  <nav class="sides" aria-label="Sides of traffic">
    <router-link v-for="{ path, title } in SIDES" :key="path" :to="`/e/${engagement.id}/${path}`" class="side" :class="{ here: here(path) }" :aria-current="here(path) ? 'page' : undefined">{{ title }}</router-link>
  </nav>
</template>

<style scoped>
.sides { display: flex; flex-wrap: wrap; gap: 2px 18px; margin: -4px 0 12px; border-bottom: var(--hair); }
.side { display: inline-flex; align-items: center; min-height: 30px; color: rgb(var(--v-theme-on-surface)) !important; text-decoration: none; border-bottom: 2px solid transparent; }
.side:hover { border-bottom-color: rgb(var(--v-theme-rule)); }
.here { font-weight: 600; border-bottom-color: rgb(var(--v-theme-primary)); }
</style>
