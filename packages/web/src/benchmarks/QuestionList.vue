<script setup lang="ts">
import { onMounted, reactive, ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { QuestionView } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { useEngagement } from '../stores/engagement.ts'

/** Questions that only a person can answer: who answered, what was shown for it, and until when it counts. */
const props = defineProps<{ benchmark: string }>()
const engagement = useEngagement()
const questions = ref<QuestionView[]>([])
const problem = ref('')
const answering = ref('')
const bringing = ref(false)
const form = reactive({ outcome: 'pass', note: '', until: '', files: [] as { name: string; sha256: string }[] })
const OUTCOMES = [
  { value: 'pass', title: 'Yes: it is so' },
  { value: 'fail', title: 'No: it is not so' },
  { value: 'notapplicable', title: 'It does not apply' },
]

async function load(): Promise<void> {
  try {
    questions.value = (await api.get<QuestionView[]>(`${engagement.base}/attestations`)).filter(
      ({ benchmark }) => benchmark === props.benchmark,
    )
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
onMounted(load)

function start(question: QuestionView): void {
  answering.value = answering.value === question.id ? '' : question.id
  Object.assign(form, {
    outcome: 'pass',
    note: '',
    until: new Date(Date.now() + question.days * 86_400_000).toISOString().slice(0, 10),
    files: [],
  })
}
/** Files are kept sealed at once; the answer names them by their fingerprints. */
async function show(chosen: File | File[] | null): Promise<void> {
  const files = [chosen ?? []].flat()
  problem.value = ''
  form.files = []
  if (files.length === 0) return
  bringing.value = true
  try {
    const kept = await api.upload<{ name: string; sha256: string }[]>(
      `${engagement.base}/evidence`,
      files.map((file) => ({ path: file.name, file })),
    )
    form.files = kept.map(({ name, sha256 }) => ({ name, sha256 }))
  } catch (error) {
    problem.value = wordsOf(error)
  }
  bringing.value = false
}
async function answer(question: QuestionView): Promise<void> {
  problem.value = ''
  try {
    await api.post(`${engagement.base}/attestations`, {
      benchmark: props.benchmark,
      attestation: question.id,
      outcome: form.outcome,
      note: form.note,
      files: form.files,
      until: `${form.until}T23:59:59Z`,
    })
    answering.value = ''
    await load()
  } catch (error) {
    problem.value = wordsOf(error)
  }
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
          To be shown: {{ question.evidence }}. Counts {{ question.days }} days. {{ question.references.join(' · ') }}
        </p>
        <p v-if="question.answer" class="said">
          {{ question.answer.note }}
          <span class="quiet"
            >{{ question.answer.by }}, <AgeText :at="question.answer.at" />;
            {{ question.expired ? 'counted until' : 'counts until' }} <AgeText :at="question.answer.until" /><template
              v-if="question.answer.files.length > 0"
              >; shown:
              <a
                v-for="file in question.answer.files"
                :key="file.sha256"
                class="file"
                :href="`/api${engagement.base}/evidence/${file.sha256}`"
                download
                :title="`SHA-256 ${file.sha256}`"
                >{{ file.name }}</a
              ></template
            ></span
          >
        </p>
        <v-btn
          v-if="engagement.may.attest"
          size="small"
          :aria-expanded="answering === question.id"
          @click="start(question)"
          >{{ question.answer ? 'Answer again' : 'Answer' }}</v-btn
        >
        <form v-if="answering === question.id" class="answer" @submit.prevent="answer(question)">
          <v-radio-group v-model="form.outcome" inline label="Answer"
            ><v-radio v-for="one in OUTCOMES" :key="one.value" :value="one.value" :label="one.title"
          /></v-radio-group>
          <v-textarea v-model="form.note" label="What was seen" rows="2" auto-grow />
          <div class="two">
            <v-text-field v-model="form.until" type="date" label="Counts until" /><v-file-input
              multiple
              label="What was shown (kept sealed)"
              prepend-icon=""
              :loading="bringing"
              @update:model-value="show"
            />
          </div>
          <div class="end">
            <v-btn type="submit" variant="flat" :disabled="bringing || form.note.trim().length < 3 || form.until === ''"
              >Keep the answer</v-btn
            >
          </div>
        </form>
      </li>
    </ol>
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
