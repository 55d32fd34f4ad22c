<script setup lang="ts">
import { getGlossary } from '@jurybox/api/glossary'
import { computed, ref } from 'vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'

/** The words of the product, each with its meaning. */
const { data: entries, problem } = useQuery(getGlossary, () => ({}))
const wanted = ref('')

const shown = computed(() => {
  const text = wanted.value.trim().toLowerCase()
  return (entries.value ?? []).filter(({ term, meaning }) => `${term} ${meaning}`.toLowerCase().includes(text))
})
</script>

<template>
  <div class="page">
    <h1>{{ $t('help.glossary') }}</h1>
    <ProblemNote :text="problem" />
    <v-text-field v-model="wanted" :label="$t('help.searchTerms')" class="find" clearable @click:clear="wanted = ''" />
    <dl class="panel">
      <div v-for="{ term, meaning } in shown" :key="term" class="entry">
        <dt>{{ term }}</dt>
        <dd>{{ meaning }}</dd>
      </div>
    </dl>
    <p v-if="entries && shown.length === 0" class="quiet">{{ $t('help.noTermContains', { wanted }) }}</p>
  </div>
</template>

<style scoped>
.find {
  max-width: 360px;
  margin: 10px 0;
}
.entry {
  display: grid;
  grid-template-columns: minmax(110px, 1fr) minmax(0, 4fr);
  gap: 4px 24px;
  padding: 8px 16px;
}
.entry + .entry {
  border-top: var(--hair);
}
dt {
  font-weight: 600;
}
dd {
  margin: 0;
  max-width: 75ch;
}
</style>
