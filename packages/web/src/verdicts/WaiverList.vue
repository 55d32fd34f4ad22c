<script setup lang="ts">
import { t } from '../messages/index.ts'
import { useConfirm } from '../stores/confirm.ts'
import { type WaiverView, listWaivers, withdrawWaiver } from '@jurybox/api/waivers'
import { EXPECTATIONS } from '@jurybox/core/audit'
import { call } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { absoluteTime, dayOf } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'

const confirm = useConfirm()

/** What is borne, by whom and until when; what has ended stays on record. */
const engagement = useEngagement()
const { data: waivers, problem, attempt } = useQuery(listWaivers, () => ({}))
async function withdraw(waiver: WaiverView): Promise<void> {
  const question = {
    title: t('verdicts.withdrawNamed', { rule: waiver.rule, device: waiver.device ?? t('verdicts.everyDevice') }),
    text: t('verdicts.findingOpensAgain'),
    action: t('verdicts.withdrawWaiver'),
  }
  if (await confirm.ask(question)) await attempt(() => call(withdrawWaiver, { params: { waiver: waiver.id } }))
}
const expired = (waiver: WaiverView): boolean => Date.parse(waiver.expires) <= Date.now()
const hasEnded = (waiver: WaiverView): boolean => waiver.endedAt !== null || expired(waiver)
const deviceOf = ({ device, benchmark }: WaiverView): string =>
  device ?? (benchmark === EXPECTATIONS ? 'traffic' : t('verdicts.everyDeviceWord'))
const columns: Column<WaiverView>[] = [
  { key: 'rule', title: t('common.rule'), value: ({ rule }) => rule },
  {
    key: 'device',
    title: t('common.device'),
    value: (waiver) => [deviceOf(waiver), waiver.subject].filter(Boolean).join(' '),
  },
  { key: 'reason', title: t('common.reason'), value: ({ reason }) => reason },
  { key: 'owner', title: t('verdicts.riskOwnerLabel'), value: ({ owner }) => owner },
  {
    key: 'until',
    title: t('verdicts.until'),
    value: (waiver) =>
      waiver.endedAt === null ? dayOf(waiver.expires) : `${t('verdicts.withdrawn')} ${dayOf(waiver.endedAt)}`,
    raw: ({ expires }) => expires,
  },
  { key: 'action', title: t('common.action'), value: () => '', acts: true },
]
</script>

<template>
  <div>
    <ProblemNote :text="problem" />
    <p v-if="waivers?.length === 0" class="panel none">
      {{ $t('verdicts.noWaiversWaiveAFinding') }}
    </p>
    <DataTable
      v-else-if="waivers"
      class="panel"
      name="waivers"
      :label="$t('common.waivers')"
      :rows="waivers"
      :columns="columns"
      :row-class="(waiver) => ({ over: hasEnded(waiver) })"
    >
      <template #rule="{ row: waiver }">
        <router-link
          :to="
            waiver.benchmark === EXPECTATIONS
              ? `traffic?expectation=${waiver.rule}`
              : `benchmarks/${waiver.benchmark}?rule=${waiver.rule}`
          "
          >{{ waiver.rule }}</router-link
        >
      </template>
      <template #device="{ row: waiver }">
        {{ deviceOf(waiver) }}
        <div v-if="waiver.subject" class="quiet">{{ waiver.subject }}</div>
      </template>
      <template #until="{ row: waiver }">
        <template v-if="waiver.endedAt">{{ $t('verdicts.withdrawn') }} <AgeText :at="waiver.endedAt" /></template
        ><template v-else
          >{{ expired(waiver) ? 'ended ' : ''
          }}<span :title="absoluteTime(waiver.expires)">{{ dayOf(waiver.expires) }}</span></template
        >
      </template>
      <template #action="{ row: waiver }">
        <v-btn
          v-if="engagement.may.waive && !hasEnded(waiver)"
          size="small"
          :aria-label="
            $t('verdicts.withdrawTheWaiverOf', {
              rule: waiver.rule,
              waiver: waiver.benchmark === EXPECTATIONS ? '' : ` on ${waiver.device ?? $t('verdicts.everyDeviceWord')}`,
            })
          "
          @click="withdraw(waiver)"
          >{{ $t('verdicts.withdraw') }}</v-btn
        >
      </template>
    </DataTable>
  </div>
</template>

<style scoped>
.none {
  padding: 14px 16px;
}
:deep(.over) td {
  color: rgb(var(--v-theme-quiet));
}
</style>
