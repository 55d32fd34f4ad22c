<script setup lang="ts">
import { computed, ref } from 'vue'
import { namesIn, useNames } from '../stores/names.ts'

/**
 * Classes of headers: the first few, all of them by one click; a long one is opened by who wants it whole. What the
 * configurations name is named.
 */
const props = withDefaults(defineProps<{ classes: readonly string[]; whole: boolean; first?: number }>(), { first: 4 })
const names = useNames()
void names.load()
const all = ref(false)
const shown = computed(() =>
  (all.value ? props.classes : props.classes.slice(0, props.first)).map((text) => ({
    text,
    names: namesIn(text, names.names).slice(0, NAMED),
  })),
)
/** More names than this are longer than what they explain. */
const NAMED = 4
const SHORT = 150
const start = (text: string): string => `${text.slice(0, SHORT).replace(/\s\S*$/, '')} …`
</script>

<template>
  <ul class="classes">
    <li v-for="one in shown" :key="one.text">
      <code v-if="one.text.length <= SHORT">{{ one.text }}</code>
      <details v-else>
        <summary>
          <code>{{ start(one.text) }}</code>
        </summary>
        <code>{{ one.text }}</code>
      </details>
      <span v-if="one.names.length > 0" class="quiet names">{{ one.names.join(', ') }}</span>
    </li>
    <li v-if="classes.length > first">
      <button type="button" class="as-link" @click="all = !all">
        {{ all ? $t('traffic.showFewer') : $t('traffic.showAll', { classes: classes.length }) }}
      </button>
    </li>
    <li v-if="!whole && (all || classes.length <= first)" class="quiet">
      {{ $t('traffic.moreThanClasses', { classes: classes.length }) }}
    </li>
  </ul>
</template>

<style scoped>
.classes {
  list-style: none;
  padding: 0;
  margin: 2px 0;
  display: grid;
  gap: 3px;
}
code {
  font-family: var(--mono);
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
.names {
  display: block;
  font-size: 12.5px;
}
summary {
  cursor: pointer;
  min-height: 24px;
}
details[open] summary code {
  color: rgb(var(--v-theme-quiet));
}
</style>
