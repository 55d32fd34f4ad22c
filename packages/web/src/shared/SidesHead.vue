<script setup lang="ts">
import { useRoute } from 'vue-router'
import { useEngagement } from '../stores/engagement.ts'

/** The head of a stage that is looked at from several sides. */
defineProps<{ title: string; note: string; sides: readonly { readonly path: string; readonly title: string }[] }>()
const engagement = useEngagement()
const route = useRoute()
const here = (path: string): boolean => route.path === `/e/${engagement.id}/${path}`
</script>

<template>
  <div class="page-head">
    <div class="grow">
      <h1>{{ title }}</h1>
      <p class="quiet">{{ note }}</p>
    </div>
    <slot />
  </div>
  <nav class="sides" :aria-label="$t('shared.sidesOf', { title })">
    <router-link
      v-for="side in sides"
      :key="side.path"
      :to="`/e/${engagement.id}/${side.path}`"
      class="side"
      :class="{ here: here(side.path) }"
      :aria-current="here(side.path) ? 'page' : undefined"
      >{{ side.title }}</router-link
    >
  </nav>
</template>

<style scoped>
.sides {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  margin: -4px 0 12px;
  border-bottom: var(--hair);
}
.side {
  display: inline-flex;
  align-items: center;
  min-height: 30px;
  color: rgb(var(--v-theme-on-surface)) !important;
  text-decoration: none;
  border-bottom: 2px solid transparent;
}
.side:hover {
  border-bottom-color: rgb(var(--v-theme-rule));
}
.here {
  font-weight: 600;
  border-bottom-color: rgb(var(--v-theme-primary));
}
</style>
