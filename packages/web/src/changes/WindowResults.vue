<script setup lang="ts">
import type { CheckResultView, CheckedDeviceView } from '@jurybox/api/checks'
import type { WindowView } from '@jurybox/api/windows'
import { t } from '../messages/index.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import { CHECK_OUTCOME_WORDS, STANDING_WORDS, authorWords, rowWords } from './change-words.ts'

/** The results of a window: by planned device, for the network, and what changed elsewhere. */
defineProps<{ window: WindowView }>()
const engagement = useEngagement()
const exhibit = useExhibit()
const STANDINGS: Readonly<Record<WindowView['results'][number]['standing'], string>> = {
  pass: t('changes.standingPass'),
  fail: t('changes.standingFail'),
  unknown: t('changes.standingUnknown'),
  pending: t('changes.standingPending'),
  missing: t('changes.standingMissing'),
  unchecked: t('changes.standingUnchecked'),
}
/** Devices of which the window did not plan anything. */
const ELSEWHERE: Readonly<Record<WindowView['unplanned'][number]['standing'], string>> = {
  ...STANDING_WORDS,
  added: t('changes.notBefore'),
  removed: t('changes.notAfter'),
}
const objected = ({ results }: CheckedDeviceView): CheckResultView[] =>
  results.filter(({ outcome }) => outcome !== 'pass' && outcome !== 'notchecked')
const count = ({ results }: CheckedDeviceView, of: CheckResultView['outcome']): number =>
  results.filter(({ outcome }) => outcome === of).length
const linkOf = (view: WindowView, device: string) => ({
  path: `/e/${engagement.id}/changes/device`,
  query: { device, ...(view.before ? { a: view.before.id } : {}), ...(view.after ? { b: view.after.id } : {}) },
})
const linesOf = ({ a, b }: CheckResultView['failing'][number]) => (b.length > 0 ? b : a)
</script>

<template>
  <div>
    <p class="sum">
      <b>{{
        $t('changes.windowCounts', window.counts ?? { pass: 0, fail: 0, unknown: 0, pending: 0, unchecked: 0 })
      }}</b>
      <span v-if="window.before && window.after" class="quiet"
        >{{ window.before.title }} → {{ window.after.title }}</span
      >
    </p>
    <section v-for="one in window.results" :key="one.device" class="device">
      <h3>
        <b :class="['standing', one.standing]">{{ STANDINGS[one.standing] }}</b>{{ ' ' }}
        <router-link v-if="one.standing !== 'missing'" :to="linkOf(window, one.device)">{{ one.device }}</router-link>
        <span v-else>{{ one.device }}</span>
      </h3>
      <p v-for="(line, i) in one.summary" :key="i" class="line">{{ line }}</p>
      <p v-if="one.standing !== 'missing' && !one.changed" class="quiet">{{ $t('changes.didNotChange') }}</p>
      <template v-if="one.checked">
        <p class="quiet">
          {{
            $t('changes.checkCounts', {
              pass: count(one.checked, 'pass'),
              fail: count(one.checked, 'fail'),
              notChecked: count(one.checked, 'notchecked'),
            })
          }}
        </p>
        <ul>
          <li v-for="check in objected(one.checked)" :key="check.check">
            <b :class="['standing', check.outcome]">{{ CHECK_OUTCOME_WORDS[check.outcome] }}</b>{{ ' '
            }}{{ check.title }}
            <span v-if="check.error" class="quiet">{{ check.error }}</span>
            <ul>
              <li v-for="(row, i) in check.failing.slice(0, 12)" :key="i">
                <button
                  v-if="linesOf(row).length > 0"
                  type="button"
                  class="as-link mono"
                  @click="exhibit.revealLines(linesOf(row))"
                >
                  {{ rowWords(row) }}
                </button>
                <span v-else class="mono">{{ rowWords(row) }}</span>
              </li>
            </ul>
          </li>
        </ul>
      </template>
    </section>
    <section v-if="window.network" class="device">
      <h3>{{ $t('changes.network') }}</h3>
      <p v-if="objected(window.network).length === 0" class="quiet">{{ $t('changes.networkPasses') }}</p>
      <ul>
        <li v-for="check in objected(window.network)" :key="check.check">
          <b :class="['standing', check.outcome]">{{ CHECK_OUTCOME_WORDS[check.outcome] }}</b>{{ ' ' }}{{ check.title }}
          <ul>
            <li v-for="(row, i) in check.failing.slice(0, 12)" :key="i" class="mono">{{ rowWords(row) }}</li>
          </ul>
        </li>
      </ul>
    </section>
    <section class="device">
      <h3>{{ $t('changes.unplanned') }}</h3>
      <p v-if="window.unplanned.length === 0" class="quiet">{{ $t('changes.noUnplanned') }}</p>
      <ul>
        <li v-for="one in window.unplanned" :key="one.device">
          <router-link :to="linkOf(window, one.device)"
            ><b>{{ one.device }}</b></router-link
          >{{ ' '
          }}<span class="quiet">{{
            [...(one.standing === 'changed' ? [] : [ELSEWHERE[one.standing]]), ...one.authors.map(authorWords)].join(
              ', ',
            )
          }}</span>
          <p v-for="(line, i) in one.summary" :key="i" class="line under">{{ line }}</p>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.sum {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin: 8px 0;
}
.device {
  border-top: var(--hair);
  padding: 8px 0;
}
h3 {
  font-size: 14px;
  font-weight: 600;
}
ul {
  list-style: none;
  padding-left: 0;
  margin: 2px 0;
}
ul ul {
  padding-left: 18px;
}
.line {
  overflow-wrap: anywhere;
}
.under {
  padding-left: 18px;
}
.mono {
  font-family: var(--mono);
  font-size: 12.5px;
  text-align: left;
  overflow-wrap: anywhere;
}
.standing.fail,
.standing.error {
  color: rgb(var(--v-theme-fail));
}
.standing.pass {
  color: rgb(var(--v-theme-pass));
}
.standing.unknown,
.standing.pending,
.standing.missing {
  color: rgb(var(--v-theme-unknown));
}
</style>
