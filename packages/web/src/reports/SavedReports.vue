<script setup lang="ts">
import {
  deleteReport,
  downloadMadeReport,
  saveReport,
  type MadeReportView,
  type ReportChoice,
  type ReportFormatView,
  type SavedReportView,
} from '@jurybox/api/reports'
import { mdiDelete } from '@mdi/js'
import { ref, watch } from 'vue'
import { addressOf, call } from '../api/client.ts'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'

/** Reports as people put them together, to be taken up again, and those that were made after audits. */
const props = defineProps<{
  choice: ReportChoice
  formats: readonly ReportFormatView[]
  saved: readonly SavedReportView[]
  made: readonly MadeReportView[]
}>()
const emit = defineEmits<{ take: [choice: ReportChoice]; changed: [] }>()
const engagement = useEngagement()
const { problem, attempt } = useAttempt(() => emit('changed'))
const saving = ref(false)
const title = ref('')
const format = ref('pdf')
const afterAudit = ref(false)
watch(saving, (isOpen) => {
  if (isOpen) title.value = props.choice.title
})
async function save(): Promise<void> {
  const body = { title: title.value, format: format.value, afterAudit: afterAudit.value, choice: props.choice }
  if (await attempt(() => call(saveReport, { body }))) saving.value = false
}
</script>

<template>
  <section class="panel saved">
    <h2>{{ $t('reports.savedReports') }}</h2>
    <ProblemNote :text="saving ? '' : problem" />
    <p v-if="saved.length === 0" class="quiet">{{ $t('reports.noSavedReports') }}</p>
    <ul v-else>
      <li v-for="one in saved" :key="one.id">
        <button type="button" class="take" @click="emit('take', one.choice)">{{ one.title }}</button>
        <span class="quiet">{{
          one.afterAudit ? $t('reports.afterEachAudit', { format: one.format.toUpperCase() }) : ''
        }}</span>
        <v-btn
          v-if="engagement.may.run"
          :icon="mdiDelete"
          size="x-small"
          variant="text"
          :aria-label="$t('reports.deleteReport', { title: one.title })"
          @click="attempt(() => call(deleteReport, { params: { report: one.id } }))"
        />
      </li>
    </ul>
    <v-btn v-if="engagement.may.run" variant="tonal" size="small" @click="saving = true">{{
      $t('reports.saveThisReport')
    }}</v-btn>
    <template v-if="made.length > 0">
      <h3>{{ $t('reports.madeAfterAudits') }}</h3>
      <ul>
        <li v-for="one in made" :key="one.id">
          <a :href="addressOf(downloadMadeReport, { params: { report: one.id } })" download
            >{{ one.title }}, {{ one.format.toUpperCase() }}</a
          >
          <span class="quiet">{{ absoluteTime(one.madeAt) }}</span>
        </li>
      </ul>
    </template>
    <ModalDialog v-model="saving" :title="$t('reports.saveThisReport')">
      <ProblemNote :text="problem" />
      <div class="form-fields">
        <v-text-field v-model="title" :label="$t('reports.title')" maxlength="160" autofocus @keydown.enter="save" />
        <v-checkbox v-model="afterAudit" :label="$t('reports.makeAfterEachAudit')" hide-details />
        <v-select
          v-if="afterAudit"
          v-model="format"
          :items="formats.map((one) => ({ value: one.form, title: one.title }))"
          :label="$t('reports.format')"
          :hint="$t('reports.afterAuditHint')"
          persistent-hint
        />
      </div>
      <template #actions>
        <v-btn variant="text" @click="saving = false">{{ $t('common.cancel') }}</v-btn>
        <v-btn variant="flat" :disabled="title.trim() === ''" @click="save">{{ $t('common.save') }}</v-btn>
      </template>
    </ModalDialog>
  </section>
</template>

<style scoped>
.saved {
  padding: 14px 16px;
  display: grid;
  gap: 8px;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 2px;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: baseline;
}
li > .quiet {
  flex: 1;
}
.take {
  color: rgb(var(--v-theme-primary));
  text-decoration: underline;
  text-align: left;
}
h3 {
  font-size: 14px;
}
</style>
