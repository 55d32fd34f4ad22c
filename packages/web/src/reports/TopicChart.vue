<script setup lang="ts">
import type { GridView } from '@jurybox/api/audits'
import { BarElement, CategoryScale, Chart, LinearScale, Tooltip, type ChartData, type ChartOptions } from 'chart.js'
import { computed } from 'vue'
import { Bar } from 'vue-chartjs'
import { useTheme } from 'vuetify'
import { t } from '../messages/index.ts'

Chart.register(BarElement, CategoryScale, LinearScale, Tooltip)

/** Failures and what could not be decided, by topic. */
const props = defineProps<{ grid: GridView }>()
const theme = useTheme()
const byTopic = computed(() => {
  const topics = new Map<string, { fail: number; unknown: number }>()
  const topicOf = new Map(props.grid.rules.map((rule) => [`${rule.benchmark} ${rule.id}`, rule.topic]))
  for (const cell of props.grid.cells) {
    const topic = topicOf.get(`${cell.benchmark} ${cell.rule}`) ?? ''
    const counts = topics.get(topic) ?? { fail: 0, unknown: 0 }
    if (cell.outcome === 'fail') counts.fail++
    if (cell.outcome === 'unknown' || cell.outcome === 'error') counts.unknown++
    topics.set(topic, counts)
  }
  return [...topics].sort((a, b) => b[1].fail - a[1].fail)
})
const colours = computed(() => theme.current.value.colors as Record<string, string>)
const chart = computed<ChartData<'bar'>>(() => ({
  labels: byTopic.value.map(([topic]) => topic),
  datasets: [
    {
      label: t('reports.fail'),
      data: byTopic.value.map(([, counts]) => counts.fail),
      backgroundColor: colours.value['fail'],
      barThickness: 12,
    },
    {
      label: t('reports.unknown'),
      data: byTopic.value.map(([, counts]) => counts.unknown),
      backgroundColor: 'transparent',
      borderColor: colours.value['unknown'],
      borderWidth: 2,
      barThickness: 12,
    },
  ],
}))
const options = computed<ChartOptions<'bar'>>(() => ({
  indexAxis: 'y',
  animation: false,
  responsive: true,
  maintainAspectRatio: false,
  scales: {
    x: {
      stacked: true,
      ticks: { color: colours.value['on-surface'], precision: 0 },
      grid: { color: colours.value['rule'] },
    },
    y: {
      stacked: true,
      ticks: {
        color: colours.value['on-surface'],
        font: { family: '"Source Sans 3", sans-serif', size: 12 },
        autoSkip: false,
      },
      grid: { display: false },
    },
  },
}))
const chartWords = computed(() =>
  byTopic.value
    .map(([topic, counts]) => t('reports.failUnknown', { topic, fail: counts.fail, unknown: counts.unknown }))
    .join('; '),
)
</script>

<template>
  <div class="chart" :style="{ height: `${60 + byTopic.length * 24}px` }">
    <Bar :data="chart" :options="options" role="img" :aria-label="chartWords" />
  </div>
</template>

<style scoped>
.chart {
  position: relative;
  margin-top: 8px;
}
</style>
