<script setup lang="ts">
import { t } from '../messages/index.ts'
import { useConfirm } from '../stores/confirm.ts'
import { type WaiverView, listWaivers, withdrawWaiver } from '@jurybox/api/waivers'
import { EXPECTATIONS } from '@jurybox/core/audit'
import { onMounted, ref } from 'vue'
import { wordsOf, call } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { absoluteTime, dayOf } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'

const confirm = useConfirm()

/** What is borne, by whom and until when; what has ended stays on record. */
const engagement = useEngagement()
const waivers = ref<WaiverView[] | null>(null)
const problem = ref('')

async function load(): Promise<void> {
  try {
    waivers.value = await call(listWaivers)
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
onMounted(load)
async function withdraw(waiver: WaiverView): Promise<void> {
  const question = {
    title: t('verdicts.withdrawNamed', { rule: waiver.rule, device: waiver.device ?? t('verdicts.everyDevice') }),
    text: t('verdicts.findingOpensAgain'),
    action: t('verdicts.withdrawWaiver'),
  }
  if (!(await confirm.ask(question))) return
  try {
    await call(withdrawWaiver, { params: { waiver: waiver.id } })
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
      {{ $t('verdicts.noWaiversWaiveAFinding') }}
    </p>
    <table v-else-if="waivers" class="rows panel">
      <thead>
        <tr>
          <th scope="col">{{ $t('common.rule') }}</th>
          <th scope="col">{{ $t('common.device') }}</th>
          <th scope="col">{{ $t('common.reason') }}</th>
          <th scope="col">{{ $t('verdicts.riskOwner2') }}</th>
          <th scope="col">{{ $t('verdicts.until') }}</th>
          <th scope="col">
            <span class="sr">{{ $t('common.action') }}</span>
          </th>
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
            {{ waiver.device ?? (waiver.benchmark === EXPECTATIONS ? 'traffic' : $t('verdicts.everyDevice2')) }}
            <div v-if="waiver.subject" class="quiet">{{ waiver.subject }}</div>
          </td>
          <td>{{ waiver.reason }}</td>
          <td>{{ waiver.owner }}</td>
          <td>
            <template v-if="waiver.endedAt">{{ $t('verdicts.withdrawn') }} <AgeText :at="waiver.endedAt" /></template
            ><template v-else
              >{{ expired(waiver) ? 'ended ' : ''
              }}<span :title="absoluteTime(waiver.expires)">{{ dayOf(waiver.expires) }}</span></template
            >
          </td>
          <td>
            <v-btn
              v-if="engagement.may.waive && waiver.endedAt === null && !expired(waiver)"
              size="small"
              :aria-label="
                $t('verdicts.withdrawTheWaiverOf', {
                  rule: waiver.rule,
                  waiver:
                    waiver.benchmark === EXPECTATIONS ? '' : ` on ${waiver.device ?? $t('verdicts.everyDevice2')}`,
                })
              "
              @click="withdraw(waiver)"
              >{{ $t('verdicts.withdraw') }}</v-btn
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
