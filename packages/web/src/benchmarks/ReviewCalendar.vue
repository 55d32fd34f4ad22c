<script setup lang="ts">
import { t } from '../messages/index.ts'
import { type ReviewView, confirmReview, listReviews } from '@jurybox/api/benchmarks'
import { computed, onMounted, ref } from 'vue'
import { wordsOf, call } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { useEngagement } from '../stores/engagement.ts'
import ModalDialog from '../shared/ModalDialog.vue'

/** Requirements that ask for a review at intervals: when each was reviewed last, and how much of its time is gone. */
const engagement = useEngagement()
const reviews = ref<ReviewView[]>([])
const problem = ref('')
const DAY = 86_400_000
async function load(): Promise<void> {
  try {
    reviews.value = await call(listReviews)
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
onMounted(load)
const latest = computed(() => engagement.audits.at(-1) ?? null)
const confirming = ref<ReviewView | null>(null)
const note = ref('')
async function confirm(): Promise<void> {
  const [review, audit] = [confirming.value, latest.value]
  if (!review || !audit) return
  try {
    await call(confirmReview, {
      body: { framework: review.framework, requirement: review.requirement, audit: audit.id, note: note.value },
    })
    confirming.value = null
    note.value = ''
    await load()
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
const goneOf = ({ last, everyDays }: ReviewView): number =>
  last ? Math.min(100, (100 * (Date.now() - Date.parse(last.at))) / (everyDays * DAY)) : 100
const leftOf = ({ due }: ReviewView): number => (due ? Math.ceil((Date.parse(due) - Date.now()) / DAY) : 0)
function wordsFor(review: ReviewView): string {
  if (!review.last) return t('benchmarks.neverReviewed')
  const left = leftOf(review)
  return left > 0 ? t('benchmarks.daysLeft', { left }) : t('benchmarks.overdueByDays', { left: -left })
}
</script>

<template>
  <section v-if="reviews.length > 0 || problem" class="calendar">
    <h2>{{ $t('benchmarks.periodicReviews') }}</h2>
    <ProblemNote :text="problem" />
    <table class="rows panel">
      <thead>
        <tr>
          <th scope="col">{{ $t('benchmarks.requirement') }}</th>
          <th scope="col">{{ $t('benchmarks.interval') }}</th>
          <th scope="col">{{ $t('benchmarks.lastReview') }}</th>
          <th scope="col" class="wide">{{ $t('benchmarks.timeUsed') }}</th>
          <th scope="col">{{ $t('benchmarks.status') }}</th>
          <th v-if="engagement.may.attest && latest" scope="col">
            <span class="sr">{{ $t('benchmarks.confirm') }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="review in reviews" :key="`${review.framework} ${review.requirement}`">
          <td>
            {{ review.title }}
            <div class="quiet">{{ review.frameworkTitle }}, {{ review.requirement }}</div>
          </td>
          <td class="nowrap">{{ $t('benchmarks.days', { everyDays: review.everyDays }) }}</td>
          <td class="nowrap">
            <template v-if="review.last"
              ><AgeText :at="review.last.at" />
              <div class="quiet">
                {{ review.last.by === 'audit' ? $t('benchmarks.confirmedAudit') : $t('benchmarks.answerOfAPerson') }}
              </div></template
            ><template v-else>{{ $t('common.never') }}</template>
          </td>
          <td>
            <div class="bar" role="img" :aria-label="wordsFor(review)">
              <div :class="review.answer === 'met' ? 'going' : 'gone'" :style="{ width: `${goneOf(review)}%` }" />
            </div>
            <span class="quiet"
              >{{ wordsFor(review)
              }}<template v-if="review.lapse !== null">{{
                $t('benchmarks.longestGapDays', { lapse: review.lapse })
              }}</template></span
            >
          </td>
          <td class="nowrap">
            <VerdictMark
              :outcome="review.answer === 'met' ? 'pass' : review.answer === 'overdue' ? 'fail' : 'unknown'"
              :word="false"
            />
            {{ review.answer }}
          </td>
          <td v-if="engagement.may.attest && latest" class="nowrap">
            <v-btn size="small" variant="text" @click="confirming = review">{{
              $t('benchmarks.confirmAuditAsReview')
            }}</v-btn>
          </td>
        </tr>
      </tbody>
    </table>
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
