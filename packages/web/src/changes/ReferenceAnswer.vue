<script setup lang="ts">
import { type ReferenceAnswerView, getReferenceAnswer } from '@jurybox/api/references'
import { computed } from 'vue'
import { t } from '../messages/index.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'

/** What one device has and lacks of a reference, with the commands that put it right. */
const props = defineProps<{ reference: string; device: number; name: string }>()
const engagement = useEngagement()
const exhibit = useExhibit()
const { data: answer, problem } = useQuery(
  getReferenceAnswer,
  () => ({
    params: { reference: props.reference, device: props.device },
    query: engagement.b ? { snapshot: engagement.b.id } : {},
  }),
  { afresh: true },
)
type Line = ReferenceAnswerView['lines'][number]
const STATES: Readonly<Record<Line['state'], string>> = {
  matching: t('changes.lineMatching'),
  missing: t('changes.lineMissing'),
  extra: t('changes.lineExtra'),
  forbidden: t('changes.lineForbidden'),
  'out-of-order': t('changes.lineOutOfOrder'),
  undecided: t('changes.lineUndecided'),
}
const ORDER: readonly Line['state'][] = ['missing', 'forbidden', 'out-of-order', 'extra', 'undecided', 'matching']
const lines = computed(() =>
  (answer.value?.lines ?? []).toSorted((x, y) => ORDER.indexOf(x.state) - ORDER.indexOf(y.state)),
)
const overridden = computed(() => (answer.value?.values ?? []).filter(({ override }) => override !== null))
</script>

<template>
  <div class="answer">
    <h3>{{ name }}</h3>
    <ProblemNote :text="problem" />
    <template v-if="answer">
      <p v-if="answer.reason" class="quiet">{{ answer.reason }}</p>
      <ul>
        <li v-for="(line, i) in lines" :key="i" :class="line.state">
          <b>{{ STATES[line.state] }}</b>{{ ' ' }}
          <button
            v-if="line.lines.length > 0"
            type="button"
            class="as-link mono"
            @click="exhibit.revealLines(line.lines)"
          >
            {{ [...line.block, line.text].join(' › ') }}
          </button>
          <code v-else>{{ [...line.block, line.text].join(' › ') }}</code>
        </li>
        <li v-for="(one, i) in answer.state" :key="`s${i}`" :class="one.outcome">
          <b>{{ one.outcome }}</b>{{ ' ' }}{{ one.title
          }}<span v-if="one.reason" class="quiet">{{ ' ' }}{{ one.reason.what }}</span>
        </li>
      </ul>
      <p v-for="one in overridden" :key="one.name">
        {{
          $t('changes.overriddenBy', {
            name: one.name,
            value: (one.value ?? []).join(', '),
            title: one.override?.title ?? '',
            by: one.override?.by ?? '',
          })
        }}
      </p>
      <template v-if="answer.commands.length > 0">
        <h4>{{ $t('changes.commands') }}</h4>
        <pre>{{ answer.commands.join('\n') }}</pre>
        <h4>{{ $t('changes.rollback') }}</h4>
        <pre>{{ answer.rollback.join('\n') }}</pre>
      </template>
    </template>
  </div>
</template>

<style scoped>
.answer {
  border-top: var(--hair);
  margin-top: 10px;
  padding-top: 8px;
}
h3 {
  font-size: 14px;
}
h4 {
  margin: 8px 0 2px;
}
ul {
  list-style: none;
  padding: 0;
  margin: 4px 0;
}
.mono,
code,
pre {
  font-family: var(--mono);
  font-size: 12.5px;
  text-align: left;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
}
.missing b,
.forbidden b,
.out-of-order b,
.violated b {
  color: rgb(var(--v-theme-fail));
}
.undecided b {
  color: rgb(var(--v-theme-unknown));
}
.matching b,
.met b {
  color: rgb(var(--v-theme-pass));
}
</style>
