<script setup lang="ts">
import { deriveReferences, saveReference } from '@jurybox/api/references'
import { listGroups } from '@jurybox/api/groups'
import { computed, ref } from 'vue'
import { call } from '../api/client.ts'
import { t } from '../messages/index.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { firstOf } from '../shared/words.ts'
import { useEngagement } from '../stores/engagement.ts'

/** What devices have in common for a feature: common lines, values that differ, and who departs. */
const props = defineProps<{
  features: readonly { readonly id: string; readonly title: string; readonly dialects: readonly string[] }[]
  save: (action: () => Promise<unknown>) => Promise<boolean>
}>()
const emit = defineEmits<{ saved: [] }>()
const engagement = useEngagement()
const feature = ref(props.features[0]?.id ?? '')
const dialects = computed(() => props.features.find(({ id }) => id === feature.value)?.dialects ?? [])
const dialect = ref(dialects.value[0] ?? '')
const group = ref<string | null>(null)
const { data: groups } = useQuery(listGroups, () => (engagement.b ? { query: { snapshot: engagement.b.id } } : {}))
const asked = computed(() =>
  engagement.b && dialects.value.includes(dialect.value)
    ? {
        query: {
          snapshot: engagement.b.id,
          feature: feature.value,
          dialect: dialect.value,
          ...(group.value === null ? {} : { group: group.value }),
        },
      }
    : null,
)
const { data: derived, problem, loading } = useQuery(deriveReferences, () => asked.value, { afresh: true })
const KINDS = {
  missing: t('changes.lineMissing'),
  extra: t('changes.lineExtra'),
  state: t('changes.stateOtherwise'),
} as const
async function keep(): Promise<void> {
  const reference = derived.value?.reference
  if (reference && (await props.save(() => call(saveReference, { body: reference })))) emit('saved')
}
</script>

<template>
  <section class="panel derive" :aria-label="$t('changes.deriveReference')">
    <div class="which">
      <v-select
        v-model="feature"
        :items="features.map(({ id, title }) => ({ value: id, title }))"
        :label="$t('changes.feature')"
        hide-details
      />
      <v-select v-model="dialect" :items="dialects" :label="$t('changes.dialect')" hide-details />
      <v-select
        v-model="group"
        :items="[
          { value: null, title: $t('changes.allDevices') },
          ...(groups ?? []).map(({ title }) => ({ value: title, title })),
        ]"
        :label="$t('changes.group')"
        hide-details
      />
    </div>
    <ProblemNote :text="problem" />
    <p v-if="!loading && !derived && !problem" class="quiet">{{ $t('changes.nothingInCommon') }}</p>
    <div v-if="derived" class="found">
      <div>
        <h3>{{ $t('changes.inCommon', { samples: derived.samples }) }}</h3>
        <template v-for="(part, i) in derived.reference.parts" :key="i">
          <p v-if="part.block.length > 0" class="mono block">{{ part.block.join(' › ') }}</p>
          <p v-for="(line, n) in part.lines" :key="n" class="mono" :class="{ quiet: line.kind === 'optional' }">
            {{ line.line }}<span v-if="line.kind === 'optional'">{{ ' ' }}({{ $t('changes.optional') }})</span>
          </p>
        </template>
        <template v-if="derived.state.length > 0">
          <h3>{{ $t('changes.stateInCommon') }}</h3>
          <details v-for="one in derived.state" :key="one.title">
            <summary>
              {{ one.title }}:
              <code v-if="one.that !== null">{{ one.values[0]?.value }}</code>
              <span v-else class="quiet">{{
                one.values.length > 1
                  ? $t('changes.stateDiffers', one.values.length)
                  : $t('changes.stateOfFew', one.unknown.length)
              }}</span>
            </summary>
            <p v-for="value in one.values" :key="value.value">
              <code>{{ value.value }}</code> <span class="quiet">{{ firstOf(value.samples, 5) }}</span>
            </p>
            <p v-if="one.unknown.length > 0" class="quiet">
              {{ $t('changes.stateUnknownOf', { devices: firstOf(one.unknown, 5) }) }}
            </p>
          </details>
        </template>
      </div>
      <div>
        <h3>{{ $t('changes.outliers', derived.outliers.length) }}</h3>
        <p v-if="derived.outliers.length === 0" class="quiet">{{ $t('changes.noOutliers') }}</p>
        <details v-for="one in derived.outliers" :key="one.name">
          <summary>
            <b>{{ one.name }}</b> <span class="quiet">{{ one.deviations.length }}</span>
          </summary>
          <p v-for="(deviation, n) in one.deviations" :key="n" class="mono">
            {{ KINDS[deviation.kind] }}: {{ [...deviation.block, deviation.text].join(' › ') }}
          </p>
        </details>
        <h3>{{ $t('changes.spread') }}</h3>
        <p v-if="derived.values.length === 0" class="quiet">{{ $t('changes.noSpread') }}</p>
        <details v-for="one in derived.values" :key="one.name">
          <summary>
            <code>{{ one.line }}</code> <span class="quiet">{{ one.values.length }}</span>
          </summary>
          <p v-for="value in one.values" :key="value.value">
            <code>{{ value.value }}</code> <span class="quiet">{{ firstOf(value.samples, 5) }}</span>
          </p>
        </details>
      </div>
    </div>
    <v-btn v-if="derived && engagement.may.fit" variant="flat" @click="keep">{{ $t('changes.saveReference') }}</v-btn>
  </section>
</template>

<style scoped>
.derive {
  padding: 14px 16px;
  margin-bottom: 12px;
}
.which {
  display: grid;
  grid-template-columns: repeat(3, minmax(150px, 240px));
  gap: 8px;
  margin-bottom: 10px;
}
.found {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 0 24px;
  margin-bottom: 12px;
}
h3 {
  font-size: 14px;
  margin: 8px 0 4px;
}
.mono,
code {
  font-family: var(--mono);
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
.block {
  font-weight: 600;
  margin-top: 6px;
}
summary {
  cursor: pointer;
  min-height: 24px;
}
@media (max-width: 800px) {
  .which,
  .found {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
