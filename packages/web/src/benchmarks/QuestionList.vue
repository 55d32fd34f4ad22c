<script setup lang="ts">
import { t } from '../messages/index.ts'
import type { BodyOf } from '@jurybox/api/endpoint'
import {
  type QuestionView,
  answerQuestion,
  listQuestions,
  uploadEvidence,
  downloadEvidence,
  withdrawRequest,
  reviewAnswer,
} from '@jurybox/api/questions'
import { computed, reactive, ref } from 'vue'
import { wordsOf, call, upload, addressOf } from '../api/client.ts'
import AnswerRequestDialog from './AnswerRequestDialog.vue'
import ModalDialog from '../shared/ModalDialog.vue'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { useEngagement } from '../stores/engagement.ts'
import { dayOf } from '../shared/time.ts'
import DateField from '../shared/DateField.vue'
import { useFrameworks } from '../stores/frameworks.ts'

/** Questions that only a person can answer: who answered, what was shown for it, and until when it counts. */
const props = defineProps<{ benchmark: string }>()
const engagement = useEngagement()
const frameworks = useFrameworks()
void frameworks.load()
const { data, problem, fields, attempt, load } = useQuery(listQuestions, () => ({}))
const questions = computed(() => (data.value ?? []).filter(({ benchmark }) => benchmark === props.benchmark))
const answering = ref('')
const bringing = ref(false)
const form = reactive({
  outcome: 'pass' as BodyOf<typeof answerQuestion>['outcome'],
  note: '',
  until: '',
  files: [] as { name: string; sha256: string }[],
})
const OUTCOMES = [
  { value: 'pass', title: t('benchmarks.yesFulfilled') },
  { value: 'fail', title: t('benchmarks.noNotFulfilled') },
  { value: 'notapplicable', title: t('benchmarks.doesNotApply') },
]

function start(question: QuestionView): void {
  answering.value = answering.value === question.id ? '' : question.id
  Object.assign(form, { outcome: 'pass', note: '', until: dayOf(Date.now() + question.days * 86_400_000), files: [] })
}
/** Files are kept sealed at once; the answer names them by their fingerprints. */
async function show(chosen: File | File[] | null): Promise<void> {
  const files = [chosen ?? []].flat()
  problem.value = ''
  form.files = []
  if (files.length === 0) return
  bringing.value = true
  try {
    const kept = await upload(
      uploadEvidence,
      files.map((file) => ({ path: file.name, file })),
    )
    form.files = kept.map(({ name, sha256 }) => ({ name, sha256 }))
  } catch (error) {
    problem.value = wordsOf(error)
  }
  bringing.value = false
}
/** Of whom, until when and by whom an answer is asked, for a text. */
const asked = ({ of, due, by }: NonNullable<QuestionView['request']>) => ({ of: of.name, due, by })
const requesting = ref<QuestionView | null>(null)
const returning = ref<QuestionView | null>(null)
const missing = ref('')
async function review({ answer: given }: QuestionView, outcome: 'accepted' | 'returned'): Promise<void> {
  if (!given) return
  const body = { outcome, note: outcome === 'returned' ? missing.value : '' }
  if (await attempt(() => call(reviewAnswer, { params: { answer: given.id }, body }))) {
    returning.value = null
    missing.value = ''
  }
}
async function answer(question: QuestionView): Promise<void> {
  const { outcome, note, files, until } = form
  const body = {
    benchmark: props.benchmark,
    attestation: question.id,
    outcome,
    note,
    files,
    until: `${until}T23:59:59Z`,
  }
  if (await attempt(() => call(answerQuestion, { body }))) answering.value = ''
}
</script>

<template>
  <div class="panel">
    <ProblemNote :text="problem" />
    <ol class="questions">
      <li v-for="question in questions" :key="question.id">
        <div class="head">
          <VerdictMark :outcome="question.outcome" />
          <h3>{{ question.title }}</h3>
          <SeverityNotches :severity="question.severity" /><span class="quiet">{{ question.topic }}</span>
        </div>
        <p>{{ question.question }}</p>
        <p class="quiet">
          {{
            $t('benchmarks.evidenceNeededValidForDays', {
              evidence: question.evidence,
              days: question.days,
              references: question.references.map(frameworks.nameOf).join(' · '),
            })
          }}
        </p>
        <p v-if="question.answer" class="said">
          {{ question.answer.note }}
          <span class="quiet"
            >{{ question.answer.by }}, <AgeText :at="question.answer.at" />;
            {{ question.expired ? $t('benchmarks.validUntil') : $t('benchmarks.validUntil') }}
            <AgeText :at="question.answer.until" /><template v-if="question.answer.files.length > 0"
              >{{ $t('benchmarks.evidence') }}
              <a
                v-for="file in question.answer.files"
                :key="file.sha256"
                class="file"
                :href="addressOf(downloadEvidence, { params: { sha256: file.sha256 } })"
                download
                :title="$t('benchmarks.sha256', { sha256: file.sha256 })"
                >{{ file.name }}</a
              ></template
            ></span
          >
        </p>
        <p v-if="question.answer?.review" class="said">
          {{ question.answer.review.note }}
          <span class="quiet"
            >{{
              question.answer.review.outcome === 'accepted' ? $t('benchmarks.accepted') : $t('benchmarks.sentBack')
            }}, {{ question.answer.review.by }}, <AgeText :at="question.answer.review.at"
          /></span>
        </p>
        <p v-else-if="question.answer" class="quiet">{{ $t('benchmarks.notReviewed') }}</p>
        <p v-if="question.request" :class="question.request.overdue ? 'overdue' : 'quiet'">
          {{
            question.request.overdue
              ? $t('benchmarks.requestOverdue', asked(question.request))
              : $t('benchmarks.requestedOf', asked(question.request))
          }}
          {{ question.request.note }}
          <v-btn
            v-if="engagement.may.run"
            size="x-small"
            variant="text"
            @click="attempt(() => call(withdrawRequest, { params: { request: question.request?.id ?? 0 } }))"
            >{{ $t('benchmarks.withdrawRequest') }}</v-btn
          >
        </p>
        <v-btn
          v-if="engagement.may.attest"
          size="small"
          :aria-expanded="answering === question.id"
          @click="start(question)"
          >{{ question.answer ? $t('benchmarks.answerAgain') : $t('benchmarks.answer') }}</v-btn
        >
        <v-btn v-if="engagement.may.run" size="small" class="next" @click="requesting = question">{{
          $t('benchmarks.requestAnswer')
        }}</v-btn>
        <template v-if="engagement.may.run && question.answer?.mayReview && !question.answer.review">
          <v-btn size="small" class="next" @click="review(question, 'accepted')">{{ $t('benchmarks.accept') }}</v-btn>
          <v-btn size="small" class="next" @click="returning = question">{{ $t('benchmarks.sendBack') }}</v-btn>
        </template>
        <form v-if="answering === question.id" class="answer" @submit.prevent="answer(question)">
          <v-radio-group v-model="form.outcome" inline :label="$t('benchmarks.answer')"
            ><v-radio v-for="one in OUTCOMES" :key="one.value" :value="one.value" :label="one.title"
          /></v-radio-group>
          <v-textarea
            v-model="form.note"
            :error-messages="fields['note']"
            :label="$t('benchmarks.finding')"
            rows="2"
            auto-grow
          />
          <div class="two">
            <DateField
              v-model="form.until"
              :error-messages="fields['until']"
              :label="$t('benchmarks.validUntilLabel')"
            /><v-file-input
              multiple
              :label="$t('benchmarks.evidenceFilesStoredEncrypted')"
              prepend-icon=""
              :loading="bringing"
              @update:model-value="show"
            />
          </div>
          <div class="end">
            <v-btn
              type="submit"
              variant="flat"
              :disabled="bringing || form.note.trim().length < 3 || form.until === ''"
              >{{ $t('benchmarks.saveAnswer') }}</v-btn
            >
          </div>
        </form>
      </li>
    </ol>
    <AnswerRequestDialog v-if="requesting" :question="requesting" @close="requesting = null" @asked="load()" />
    <ModalDialog
      v-if="returning"
      :model-value="true"
      :title="$t('benchmarks.sendBack')"
      @update:model-value="returning = null"
    >
      <p>{{ returning.title }}</p>
      <v-textarea v-model="missing" :label="$t('benchmarks.whatIsMissing')" rows="2" auto-grow autofocus />
      <template #actions>
        <v-btn variant="text" @click="returning = null">{{ $t('common.cancel') }}</v-btn>
        <v-btn variant="flat" :disabled="missing.trim().length < 3" @click="review(returning, 'returned')">{{
          $t('benchmarks.sendBack')
        }}</v-btn>
      </template>
    </ModalDialog>
  </div>
</template>

<style scoped>
.questions {
  list-style: none;
  margin: 0;
  padding: 0;
}
.questions > li {
  padding: 12px 16px;
  border-bottom: var(--hair);
}
.head {
  display: flex;
  gap: 14px;
  align-items: center;
  flex-wrap: wrap;
}
.head h3 {
  margin: 0;
  flex: 1;
}
.head .mark {
  min-width: 110px;
}
.questions p {
  margin: 4px 0;
}
.said {
  border-left: 3px solid rgb(var(--v-theme-brass));
  padding-left: 10px;
}
.next {
  margin-left: 8px;
}
.overdue {
  color: rgb(var(--v-theme-fail));
}
.file {
  margin-right: 8px;
}
.answer {
  display: grid;
  gap: 10px;
  margin-top: 10px;
  max-width: 820px;
}
.two {
  align-items: start;
  display: grid;
  grid-template-columns: 1fr 2fr;
  gap: 12px;
}
.end {
  display: flex;
  justify-content: flex-end;
}
</style>
