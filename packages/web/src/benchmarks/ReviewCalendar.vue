<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { ReviewView } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { useEngagement } from '../stores/engagement.ts'

/** Requirements that ask for a review at intervals: when each was reviewed last, and how much of its time is gone. */
const engagement = useEngagement()
const reviews = ref<ReviewView[]>([])
const problem = ref('')
const DAY = 86_400_000
async function load(): Promise<void> {
  try {
    reviews.value = await api.get<ReviewView[]>(`${engagement.base}/reviews`)
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
    await api.post(`${engagement.base}/reviews`, {
      framework: review.framework,
      requirement: review.requirement,
      audit: audit.id,
      note: note.value,
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
  if (!review.last) return 'never reviewed'
  const left = leftOf(review)
  return left > 0 ? `${left} days left` : `overdue by ${-left} days`
}
</script>

<template>
  <section v-if="reviews.length > 0 || problem" class="calendar">
    <h2>Reviews at intervals</h2>
    <ProblemNote :text="problem" />
    <table class="rows panel">
      <thead>
        <tr>
          <th scope="col">Requirement</th>
          <th scope="col">Every</th>
          <th scope="col">Last</th>
          <th scope="col" class="wide">Time gone</th>
          <th scope="col">Answer</th>
          <th v-if="engagement.may.attest && latest" scope="col"><span class="sr">Confirm</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="review in reviews" :key="`${review.framework} ${review.requirement}`">
          <td>
            {{ review.title }}
            <div class="quiet">{{ review.frameworkTitle }}, {{ review.requirement }}</div>
          </td>
          <td class="nowrap">{{ review.everyDays }} days</td>
          <td class="nowrap">
            <template v-if="review.last"
              ><AgeText :at="review.last.at" />
              <div class="quiet">
                {{ review.last.by === 'audit' ? 'an audit, confirmed' : 'a person’s answer' }}
              </div></template
            ><template v-else>never</template>
          </td>
          <td>
            <div class="bar" role="img" :aria-label="wordsFor(review)">
              <div :class="review.answer === 'met' ? 'going' : 'gone'" :style="{ width: `${goneOf(review)}%` }" />
            </div>
            <span class="quiet"
              >{{ wordsFor(review)
              }}<template v-if="review.lapse !== null">; once {{ review.lapse }} days lay between two</template></span
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
            <v-btn size="small" variant="text" @click="confirming = review">Confirm an audit</v-btn>
          </td>
        </tr>
      </tbody>
    </table>
    <v-dialog :model-value="confirming !== null" max-width="520" @update:model-value="confirming = null">
      <v-card v-if="confirming && latest" title="Confirm an audit as the review">
        <v-card-text>
          <p>
            {{ confirming.title }}
            <span class="quiet">({{ confirming.frameworkTitle }}, {{ confirming.requirement }})</span>
          </p>
          <p class="quiet">
            Audit {{ latest.id }} alone reviews nothing: you confirm that its results were looked through for this
            requirement.
          </p>
          <v-textarea v-model="note" class="mt-3" label="What was looked at, and what came of it" rows="3" auto-grow />
        </v-card-text>
        <v-card-actions
          ><v-spacer /><v-btn @click="confirming = null">Cancel</v-btn
          ><v-btn color="primary" :disabled="note.trim().length < 3" @click="confirm"
            >Confirm review</v-btn
          ></v-card-actions
        >
      </v-card>
    </v-dialog>
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
