<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { TASKS, htmlOf } from './guide.ts'

/** The guide: a page for each task, with numbered steps and the words of the buttons. */
const route = useRoute()
const base = computed(() => `/e/${String(route.params['engagement'])}`)
const task = computed(() => TASKS.find(({ id }) => id === route.params['task']) ?? TASKS[0])
</script>

<template>
  <div class="page guide">
    <nav :aria-label="$t('help.tasks')">
      <h2>{{ $t('help.tasks') }}</h2>
      <ul>
        <li v-for="one in TASKS" :key="one.id">
          <router-link :to="`${base}/guide/${one.id}`" :aria-current="one === task ? 'page' : undefined">{{
            one.title
          }}</router-link>
        </li>
        <li>
          <router-link :to="`${base}/glossary`">{{ $t('help.glossary') }}</router-link>
        </li>
      </ul>
    </nav>
    <!-- The text ships with the product: nobody else writes it. -->
    <!-- eslint-disable-next-line vue/no-v-html -->
    <article v-if="task" class="panel" v-html="htmlOf(task)" />
  </div>
</template>

<style scoped>
.guide {
  display: grid;
  grid-template-columns: 220px minmax(0, 1fr);
  gap: 24px;
  align-items: start;
}
nav ul {
  list-style: none;
  padding: 0;
  margin: 8px 0 0;
}
nav li {
  padding: 4px 0;
}
[aria-current] {
  font-weight: 600;
}
article {
  padding: 20px 28px;
  max-width: 78ch;
}
article :deep(h2) {
  margin-top: 20px;
}
article :deep(ol),
article :deep(ul) {
  padding-left: 22px;
  margin: 10px 0;
}
article :deep(li) {
  margin: 5px 0;
}
article :deep(p) {
  margin: 10px 0;
}
article :deep(table) {
  border-collapse: collapse;
  margin: 10px 0;
}
article :deep(th),
article :deep(td) {
  border-bottom: var(--hair);
  padding: 4px 14px 4px 0;
  text-align: left;
}
@media (max-width: 900px) {
  .guide {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
