<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import { type ReviewView, confirmReview, listReviews } from '@jurybox/api/benchmarks'
import { computed, ref } from 'vue'
import { call } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import VerdictMark from '../shared/VerdictMark.vue'
import { useEngagement } from '../stores/engagement.ts'
import ModalDialog from '../shared/ModalDialog.vue'

/** Requirements that ask for a review at intervals: when each was reviewed last, and how much of its time is gone. */
const engagement = useEngagement()
const { data, problem, attempt } = useQuery(listReviews, () => ({}))
const reviews = computed(() => data.value ?? [])
const DAY = 86_400_000
const latest = computed(() => engagement.audits.at(-1) ?? null)
const confirming = ref<ReviewView | null>(null)
const note = ref('')
async function confirm(): Promise<void> {
  const [review, audit] = [confirming.value, latest.value]
  if (!review || !audit) return
  const { framework, requirement } = review
  const body = { framework, requirement, audit: audit.id, note: note.value }
  if (!(await attempt(() => call(confirmReview, { body })))) return
  confirming.value = null
  note.value = ''
}
const goneOf = ({ last, everyDays }: ReviewView): number =>
  last ? Math.min(100, (100 * (Date.now() - Date.parse(last.at))) / (everyDays * DAY)) : 100
const leftOf = ({ due }: ReviewView): number => (due ? Math.ceil((Date.parse(due) - Date.now()) / DAY) : 0)
function wordsFor(review: ReviewView): string {
  if (!review.last) return t('benchmarks.neverReviewed')
  const left = leftOf(review)
  return left > 0 ? t('benchmarks.daysLeft', { left }) : t('benchmarks.overdueByDays', { left: -left })
}
const columns: Column<ReviewView>[] = [
  {
    key: 'requirement',
    title: t('benchmarks.requirement'),
    value: ({ title, frameworkTitle, requirement }) => `${title} (${frameworkTitle}, ${requirement})`,
  },
  { key: 'interval', title: t('benchmarks.interval'), value: ({ everyDays }) => everyDays },
  { key: 'last', title: t('benchmarks.lastReview'), value: ({ last }) => last?.at ?? '' },
  { key: 'used', title: t('benchmarks.timeUsed'), value: (review) => wordsFor(review), width: '34%' },
  { key: 'status', title: t('benchmarks.status'), value: ({ answer }) => answer },
  { key: 'confirm', title: t('benchmarks.confirm'), value: () => '', acts: true },
]
</script>

<template>
  <section v-if="reviews.length > 0 || problem" class="calendar">
    <h2>{{ $t('benchmarks.periodicReviews') }}</h2>
    <ProblemNote :text="problem" />
    <DataTable
      class="panel"
      name="reviews"
      :label="$t('benchmarks.requirement')"
      :rows="reviews"
      :columns="columns"
      :row-key="({ framework, requirement }) => `${framework} ${requirement}`"
    >
      <template #requirement="{ row: review }">
        {{ review.title }}
        <div class="quiet">{{ review.frameworkTitle }}, {{ review.requirement }}</div>
      </template>
      <template #interval="{ row: review }">{{ $t('benchmarks.days', { everyDays: review.everyDays }) }}</template>
      <template #last="{ row: review }">
        <template v-if="review.last"
          ><AgeText :at="review.last.at" />
          <div class="quiet">
            {{ review.last.by === 'audit' ? $t('benchmarks.confirmedAudit') : $t('benchmarks.answerOfAPerson') }}
          </div></template
        ><template v-else>{{ $t('common.never') }}</template>
      </template>
      <template #used="{ row: review }">
        <div class="bar" role="img" :aria-label="wordsFor(review)">
          <div :class="review.answer === 'met' ? 'going' : 'gone'" :style="{ width: `${goneOf(review)}%` }" />
        </div>
        <span class="quiet"
          >{{ wordsFor(review)
          }}<template v-if="review.lapse !== null">{{
            $t('benchmarks.longestGapDays', { lapse: review.lapse })
          }}</template></span
        >
      </template>
      <template #status="{ row: review }">
        <span class="nowrap"
          ><VerdictMark
            :outcome="review.answer === 'met' ? 'pass' : review.answer === 'overdue' ? 'fail' : 'unknown'"
            :word="false"
          />
          {{ review.answer }}</span
        >
      </template>
      <template #confirm="{ row: review }">
        <v-btn v-if="engagement.may.attest && latest" size="small" variant="text" @click="confirming = review">{{
          $t('benchmarks.confirmAuditAsReview')
        }}</v-btn>
      </template>
    </DataTable>
    <ModalDialog
      :model-value="confirming !== null"
      :title="$t('benchmarks.confirmAnAuditAsThe')"
      @update:model-value="confirming = null"
    >
      <template v-if="confirming && latest">
        <p>
          {{ confirming.title }}
          <span class="quiet">({{ confirming.frameworkTitle }}, {{ confirming.requirement }})</span>
        </p>
        <p class="quiet">
          {{ $t('benchmarks.anAuditIsNotA', { id: latest.id }) }}
        </p>
        <v-textarea v-model="note" class="mt-3" :label="$t('benchmarks.reviewedItemsAndResult')" rows="3" auto-grow />
      </template>
      <template #actions>
        <v-btn variant="text" @click="confirming = null">{{ $t('common.cancel') }}</v-btn>
        <v-btn variant="flat" :disabled="note.trim().length < 3" @click="confirm">{{
          $t('benchmarks.confirmReview')
        }}</v-btn>
      </template>
    </ModalDialog>
  </section>
</template>

<style scoped>
.calendar {
  margin-top: 22px;
  display: grid;
  gap: 8px;
}
.wide {
  width: 30%;
}
.nowrap {
  white-space: nowrap;
}
.bar {
  height: 8px;
  border: 1px solid rgb(var(--v-theme-rule));
  border-radius: 3px;
  overflow: hidden;
  margin: 5px 0 2px;
}
.bar div {
  height: 100%;
}
.going {
  background: rgb(var(--v-theme-pass));
}
.gone {
  background: rgb(var(--v-theme-fail));
}
</style>
