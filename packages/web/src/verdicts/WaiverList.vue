<script setup lang="ts">
import { EXPECTATIONS } from '@jurybox/core/audit'
import { onMounted, ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { WaiverView } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'

/** What is borne, by whom and until when; what has ended stays on record. */
const engagement = useEngagement()
const waivers = ref<WaiverView[] | null>(null)
const problem = ref('')

async function load(): Promise<void> {
  try {
    waivers.value = await api.get<WaiverView[]>(`${engagement.base}/waivers`)
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
onMounted(load)
async function takeBack(waiver: WaiverView): Promise<void> {
  try {
    await api.delete(`${engagement.base}/waivers/${waiver.id}`)
    problem.value = ''
    await load()
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
const expired = (waiver: WaiverView): boolean => Date.parse(waiver.expires) <= Date.now()
</script>

<template>
  <div>
    <ProblemNote :text="problem" />
    <p v-if="waivers?.length === 0" class="panel none">
      Nothing is waived. A violation or a doubt is waived from its verdict: a reason, who bears it, and an end.
    </p>
    <table v-else-if="waivers" class="rows panel">
      <thead>
        <tr>
          <th scope="col">Rule</th>
          <th scope="col">Device</th>
          <th scope="col">Reason</th>
          <th scope="col">Borne by</th>
          <th scope="col">Until</th>
          <th scope="col"><span class="sr">Action</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="waiver in waivers" :key="waiver.id" :class="{ over: waiver.endedAt !== null || expired(waiver) }">
          <td>
            <router-link
              :to="
                waiver.benchmark === EXPECTATIONS
                  ? `traffic?expectation=${waiver.rule}`
                  : `benchmarks/${waiver.benchmark}?rule=${waiver.rule}`
              "
              >{{ waiver.rule }}</router-link
            >
          </td>
          <td>
            {{ waiver.device ?? (waiver.benchmark === EXPECTATIONS ? 'traffic' : 'every device') }}
            <div v-if="waiver.subject" class="quiet">{{ waiver.subject }}</div>
          </td>
          <td>{{ waiver.reason }}</td>
          <td>{{ waiver.owner }}</td>
          <td>
            <template v-if="waiver.endedAt">taken back <AgeText :at="waiver.endedAt" /></template
            ><template v-else
              >{{ expired(waiver) ? 'ended ' : ''
              }}<span :title="absoluteTime(waiver.expires)">{{ waiver.expires.slice(0, 10) }}</span></template
            >
          </td>
          <td>
            <v-btn
              v-if="engagement.may.waive && waiver.endedAt === null && !expired(waiver)"
              size="small"
              :aria-label="`Take back the waiver of ${waiver.rule}${waiver.benchmark === EXPECTATIONS ? '' : ` on ${waiver.device ?? 'every device'}`}`"
              @click="takeBack(waiver)"
              >Take back</v-btn
            >
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.none {
  padding: 14px 16px;
}
.over td {
  color: rgb(var(--v-theme-quiet));
}
</style>
