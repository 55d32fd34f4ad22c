<script setup lang="ts">
import { listBenchmarks } from '@jurybox/api/benchmarks'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import OwnControls from './OwnControls.vue'
import ReviewCalendar from './ReviewCalendar.vue'

const engagement = useEngagement()
const { data: rows, problem } = useQuery(listBenchmarks, () => ({}))
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>{{ $t('common.benchmarks') }}</h1>
        <p class="quiet">{{ $t('benchmarks.benchmarksThatAuditsOfThis') }}</p>
      </div>
      <v-btn v-if="engagement.may.writeRules" to="rule-bench">{{ $t('benchmarks.writeRules') }}</v-btn>
    </div>
    <ProblemNote :text="problem" />
    <ul class="shelf">
      <li v-for="row in rows" :key="row.id" class="panel">
        <h2>
          <router-link :to="`benchmarks/${row.id}`">{{ row.title }}</router-link>{{ ' ' }}
          <span class="quiet">{{ row.version }}</span>
        </h2>
        <p>{{ row.statement }}</p>
        <p class="quiet">
          {{
            row.rules === 0
              ? ''
              : $t('benchmarks.ofRulesSelectedProfile', {
                  selected: row.selected,
                  rules: row.rules,
                  profile: row.profiles.find(({ id }) => id === row.profile)?.title ?? row.profile,
                })
          }}{{ row.attestations > 0 ? $t('benchmarks.questionsForPeople', { attestations: row.attestations }) : '' }}
        </p>
      </li>
    </ul>
    <OwnControls />
    <ReviewCalendar />
  </div>
</template>

<style scoped>
.shelf {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 12px;
  grid-template-columns: repeat(auto-fill, minmax(360px, 1fr));
}
.shelf li {
  padding: 16px 18px;
  display: grid;
  gap: 6px;
}
h2 .quiet {
  font-weight: 400;
  font-size: 14px;
}
</style>
