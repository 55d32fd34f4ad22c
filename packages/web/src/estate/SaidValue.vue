<script setup lang="ts">
import { t } from '../messages/index.ts'
import { computed } from 'vue'
import { useExhibit, type MarkedRange } from '../stores/exhibit.ts'
import { originIn, useOrigins } from './model-context.ts'
import { lineWords } from '../shared/words.ts'

/**
 * A value of the device model or of its state: opens the lines that state it; says so where a default or nothing does.
 */
const props = defineProps<{ path: string; text: string | null; mono?: boolean }>()
const view = useOrigins()
const exhibit = useExhibit()
const origin = computed(() => (view.value ? originIn(view.value.origins, props.path) : null))
const ranges = computed((): readonly MarkedRange[] =>
  origin.value?.kind === 'line' ? origin.value.lines.map(({ from, to }) => ({ from, to, absent: false })) : [],
)
const record = computed(() => (origin.value?.kind === 'line' ? Number(origin.value.record) : 0))
const pointed = computed(
  () =>
    exhibit.record?.id === record.value &&
    ranges.value.some((range) => exhibit.pointed.some((other) => other.from <= range.to && range.from <= other.to)),
)
const where = computed(() => {
  const first = ranges.value[0]
  return first
    ? lineWords(first.from, first.to) +
        (ranges.value.length > 1 ? ` ${t('common.andMore', { n: ranges.value.length - 1 })}` : '')
    : ''
})

function open(): void {
  void exhibit.reveal(record.value, ranges.value)
}
</script>

<template>
  <span v-if="text === null || text === ''" class="quiet" :title="$t('estate.noLineStatesItAnd')">{{
    $t('estate.notStated')
  }}</span>
  <span v-else-if="origin?.kind === 'default'" class="default" :class="{ mono }" :title="origin.source"
    >{{ text }} <span class="quiet">{{ $t('estate.default') }}</span></span
  >
  <button
    v-else-if="ranges.length > 0"
    type="button"
    class="as-link said"
    :class="{ mono, pointed }"
    :title="where"
    @click="open"
    @pointerenter="exhibit.pointed = ranges"
    @pointerleave="exhibit.pointed = []"
    @focus="exhibit.pointed = ranges"
    @blur="exhibit.pointed = []"
  >
    {{ text }}
  </button>
  <span v-else :class="{ mono }">{{ text }}</span>
</template>

<style scoped>
.said {
  text-decoration-style: dotted;
  text-underline-offset: 3px;
  color: rgb(var(--v-theme-on-surface)) !important;
  overflow-wrap: anywhere;
}
.mono {
  white-space: nowrap;
}
.said.mono {
  font-family: var(--mono) !important;
  font-size: 12.5px !important;
}
.pointed {
  background: rgb(var(--v-theme-brass-fill));
}
</style>
