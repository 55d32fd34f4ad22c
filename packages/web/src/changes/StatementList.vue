<script setup lang="ts">
import type { DeviceComparisonView, ShownStatementView } from '@jurybox/api/changes'
import { computed } from 'vue'
import { t } from '../messages/index.ts'

/** Statements that differ, by the block that they stand in. */
const props = defineProps<{ records: DeviceComparisonView['records'] }>()
const emit = defineEmits<{ reveal: [statement: ShownStatementView] }>()
const MARKS = { removed: '−', added: '+', moved: '~' } as const
const WORDS = { removed: t('changes.removed'), added: t('changes.added'), moved: t('changes.moved') } as const

interface Block {
  readonly key: string
  readonly title: string
  readonly statements: ShownStatementView[]
}
const blocks = computed(() => {
  const all = new Map<string, Block>()
  for (const { kind, title, statements } of props.records)
    for (const statement of statements) {
      const around = statement.around.join(' › ')
      const key = `${kind}\n${around}`
      const block = all.get(key) ?? { key, title: around || title, statements: [] }
      block.statements.push(statement)
      all.set(key, block)
    }
  return [...all.values()]
})
</script>

<template>
  <div class="list">
    <section v-for="block in blocks" :key="block.key">
      <h3>{{ block.title }}</h3>
      <ul>
        <li v-for="(one, i) in block.statements" :key="i" :class="one.change">
          <span class="sign" :aria-label="WORDS[one.change]">{{ MARKS[one.change] }}</span><button
            type="button"
            class="as-link mono"
            @click="emit('reveal', one)"
          >
            {{ one.text }}
          </button>
          <span v-if="one.inner > 0" class="quiet">{{ ' ' }}{{ $t('changes.innerLines', one.inner) }}</span>
          <span v-if="one.unparsed" class="unparsed">{{ ' ' }}{{ $t('changes.unparsed') }}</span>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
h3 {
  font-family: var(--mono);
  font-size: 12.5px;
  font-weight: 600;
  margin: 8px 0 2px;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  padding: 1px 0 1px 12px;
  border-left: 3px solid rgb(var(--v-theme-brass));
}
.removed {
  border-left-color: rgb(var(--v-theme-fail));
}
.added {
  border-left-color: rgb(var(--v-theme-pass));
}
.sign {
  display: inline-block;
  width: 16px;
  font-weight: 600;
}
.mono {
  font-family: var(--mono);
  font-size: 12.5px;
  text-align: left;
  overflow-wrap: anywhere;
}
.unparsed {
  color: rgb(var(--v-theme-unknown));
  font-weight: 600;
}
</style>
