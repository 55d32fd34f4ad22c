<script setup lang="ts">
import { type ListRow, compareAccessLists, listAccessLists } from '@jurybox/api/traffic'
import { computed, ref, watch } from 'vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import ClassList from './ClassList.vue'

/** Two access lists: the same, or the headers on which they do not agree. */
const engagement = useEngagement()
const { data: known, problem: unlisted } = useQuery(listAccessLists, () =>
  engagement.b ? { query: { snapshot: engagement.b.id } } : null,
)
const lists = computed(() => known.value ?? [])
const [a, b] = [ref(''), ref('')]
/** The two that were sent off. */
const pair = ref<{ a: string; b: string } | null>(null)
const { data: difference, problem: undecided } = useQuery(
  compareAccessLists,
  () => (pair.value ? { query: { snapshot: engagement.b?.id, ...pair.value } } : null),
  { afresh: true },
)
const problem = computed(() => unlisted.value || undecided.value)
const keyOf = ({ device, list, family }: ListRow): string => `${device}|${list}|${family}`
/** Lists of one family can be compared. */
const others = computed(() =>
  lists.value.filter(
    (one) => keyOf(one) !== a.value && (a.value === '' || keyOf(one).endsWith(a.value.slice(a.value.lastIndexOf('|')))),
  ),
)
watch([a, b], () => (pair.value = null))
const compare = (): void => void (pair.value = { a: a.value, b: b.value })
</script>

<template>
  <form
    v-if="lists.length > 1"
    class="panel compare"
    :aria-label="$t('traffic.compareTwoAccessLists')"
    @submit.prevent="compare"
  >
    <h2>{{ $t('traffic.compareAccessLists') }}</h2>
    <label
      >{{ $t('traffic.first')
      }}<select v-model="a" required>
        <option v-for="one in lists" :key="keyOf(one)" :value="keyOf(one)">
          {{ $t('traffic.lines', { device: one.device, list: one.list, family: one.family, lines: one.lines }) }}
        </option>
      </select></label
    >
    <label
      >{{ $t('traffic.second')
      }}<select v-model="b" required>
        <option v-for="one in others" :key="keyOf(one)" :value="keyOf(one)">
          {{ $t('traffic.lines', { device: one.device, list: one.list, family: one.family, lines: one.lines }) }}
        </option>
      </select></label
    >
    <v-btn type="submit">{{ $t('traffic.compare') }}</v-btn>
    <ProblemNote :text="problem" />
    <div v-if="difference" class="answer" role="status">
      <p v-if="!difference.onlyFirst && !difference.onlySecond">
        <b>{{ $t('traffic.equal') }}</b>{{ ' ' }}{{ $t('traffic.bothPermitTheSamePackets') }}
      </p>
      <template v-if="difference.onlyFirst"
        ><h3>{{ $t('traffic.permittedOnlyByTheFirst') }}</h3>
        <ClassList :classes="difference.onlyFirst.classes" :whole="difference.onlyFirst.whole"
      /></template>
      <template v-if="difference.onlySecond"
        ><h3>{{ $t('traffic.permittedOnlyByTheSecond') }}</h3>
        <ClassList :classes="difference.onlySecond.classes" :whole="difference.onlySecond.whole"
      /></template>
    </div>
  </form>
</template>

<style scoped>
.compare {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: end;
  padding: 10px 16px 12px;
  margin-bottom: 12px;
}
h2 {
  width: 100%;
  font-size: 15px;
}
label {
  display: grid;
  gap: 2px;
  font-size: 13px;
  min-width: 0;
}
select {
  font: inherit;
  min-height: 30px;
  padding: 3px 8px;
  color: inherit;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-quiet));
  border-radius: 3px;
  max-width: 380px;
}
.answer {
  width: 100%;
}
h3 {
  font-size: 14px;
  margin: 6px 0 2px;
}
</style>
