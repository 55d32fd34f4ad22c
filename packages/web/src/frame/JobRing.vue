<script setup lang="ts">
import { computed } from 'vue'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'
import { KINDS, STATES, useJobs } from '../stores/jobs.ts'

/** Jobs: a ring that fills, and behind it the list of jobs. */
const jobs = useJobs()
const engagement = useEngagement()
const { problem, attempt } = useAttempt()
const first = computed(() => jobs.running[0])
const share = computed(() => (first.value && first.value.total > 0 ? first.value.done / first.value.total : 0))
</script>

<template>
  <v-menu :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <button
        v-bind="menu"
        type="button"
        class="ring"
        :aria-label="
          first
            ? $t('frame.progress', { message: first.message, done: first.done, total: first.total })
            : $t('frame.jobsNoneRunning')
        "
      >
        <svg width="22" height="22" viewBox="0 0 22 22" aria-hidden="true">
          <circle cx="11" cy="11" r="8" class="track" />
          <circle
            v-if="first"
            cx="11"
            cy="11"
            r="8"
            class="done"
            pathLength="100"
            :stroke-dasharray="`${share * 100} 100`"
            transform="rotate(-90 11 11)"
          />
        </svg>
        <span>{{ first ? `${first.done} / ${first.total}` : $t('frame.jobs') }}</span>
      </button>
    </template>
    <v-sheet class="jobs">
      <h2>{{ $t('frame.jobs') }}</h2>
      <ProblemNote :text="problem" />
      <p v-if="jobs.jobs.length === 0" class="quiet">{{ $t('frame.noJobsYet') }}</p>
      <div v-for="job in jobs.jobs.slice(0, 8)" :key="job.id" class="job">
        <div>
          <strong>{{ STATES[job.state] }}</strong> · {{ KINDS[job.kind] ?? job.kind }} ·
          <AgeText :at="job.finishedAt ?? job.createdAt" />
          <p class="quiet">{{ job.message }}</p>
        </div>
        <v-btn
          v-if="job.state === 'running' && engagement.may.run"
          size="small"
          @click="attempt(() => jobs.stop(job))"
          >{{ $t('common.stop') }}</v-btn
        >
        <v-btn
          v-else-if="job.state !== 'done' && job.state !== 'running' && engagement.may.run"
          size="small"
          @click="attempt(() => jobs.again(job))"
          >{{ $t('frame.runAgain') }}</v-btn
        >
      </div>
    </v-sheet>
  </v-menu>
</template>

<style scoped>
.ring {
  display: inline-flex;
  align-items: center;
  gap: 7px;
  min-height: 30px;
  padding: 0 6px;
  cursor: pointer;
  font: inherit;
  color: rgb(var(--v-theme-on-surface));
}
circle {
  fill: none;
  stroke-width: 3;
}
.track {
  stroke: rgb(var(--v-theme-rule));
}
.done {
  stroke: rgb(var(--v-theme-primary));
}
.jobs {
  padding: 12px 16px;
  width: 420px;
  max-width: 90vw;
}
.job {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  align-items: flex-start;
  padding: 8px 0;
  border-top: var(--hair);
}
</style>
