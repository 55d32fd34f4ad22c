<script setup lang="ts">
import { type ChangesView, compareTraffic } from '@jurybox/api/traffic'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import ClassList from './ClassList.vue'
import FateMark from './FateMark.vue'
import LineLinks from './LineLinks.vue'
import TraceRows from './TraceRows.vue'
import TrafficHead from './TrafficHead.vue'
import { countWords, packetWords } from './packet-words.ts'
import { firstOf } from '../shared/words.ts'

/** Which flows have another fate at B than at A: from where to where, and because of which lines. */
const engagement = useEngagement()
const route = useRoute()
const router = useRouter()
const only = ref('')
const earlier = computed(() => engagement.snapshots.filter(({ id }) => id !== engagement.b?.id))
const a = computed(() => engagement.a)
const asked = computed(() => (typeof route.query['only'] === 'string' ? route.query['only'] : ''))
watch(asked, (text) => (only.value = text), { immediate: true })
const {
  data: view,
  problem,
  reading,
  stop,
} = useQuery(
  compareTraffic,
  () =>
    engagement.b && a.value
      ? { query: { a: a.value.id, b: engagement.b.id, ...(asked.value ? { only: asked.value } : {}) } }
      : null,
  { afresh: true },
)
const choose = (query: Record<string, string>): void => void router.push({ query: { ...route.query, ...query } })
/** What came open and what was cut first, then the rest. */
const weight = ({ before, after }: ChangesView['changes'][number]): number => {
  const passes = (fates: readonly string[]): boolean => fates.includes('arrives') || fates.includes('leaves')
  if (before.includes('undecided') || after.includes('undecided')) return 2
  return passes(before) !== passes(after) ? 0 : 1
}
const changes = computed(() =>
  [...(view.value?.changes ?? [])].sort((x, y) => weight(x) - weight(y) || y.count.length - x.count.length),
)
const some = (all: readonly string[]): string => firstOf(all, 5)
</script>

<template>
  <div class="page">
    <TrafficHead :note="$t('traffic.connectionsWhoseFateDiffersFrom')" />
    <form class="panel ask" :aria-label="$t('traffic.compare')" @submit.prevent="choose({ only })">
      <label
        >{{ $t('traffic.compareWith')
        }}<select :value="a?.id" @change="engagement.chosenA = Number(($event.target as HTMLSelectElement).value)">
          <option v-for="one in earlier" :key="one.id" :value="one.id">{{ one.title }}</option>
        </select></label
      >
      <span class="b"
        >B <b>{{ engagement.b?.title }}</b></span
      >
      <label class="grow"
        ><span
          >{{ $t('traffic.only') }} <span class="quiet">{{ $t('traffic.pcapFilterSyntax') }}</span></span
        ><input v-model="only" class="mono" placeholder="tcp dst port 443" spellcheck="false"
      /></label>
      <v-btn type="submit" variant="flat">{{ $t('traffic.compare') }}</v-btn>
    </form>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop()" />
    <p v-if="!a && engagement.b" class="quiet">{{ $t('traffic.thereIsOnlyOneSnapshot') }}</p>
    <template v-if="view">
      <p v-if="view.added.length + view.gone.length > 0" class="quiet places">
        <template v-if="view.added.length > 0"
          >{{ $t('traffic.newHostSubnets', { added: some(view.added) }) }} </template><template
          v-if="view.gone.length > 0"
          >{{ $t('traffic.removed', { gone: some(view.gone) }) }}</template
        >
      </p>
      <p v-if="changes.length === 0" class="quiet">{{ $t('traffic.noConnectionChanged') }}</p>
      <article
        v-for="(one, i) in changes"
        :key="i"
        class="panel change"
        :aria-label="$t('common.fromTo', { from: one.before.join(', '), to: one.after.join(', ') })"
      >
        <header>
          <span class="fates"
            ><FateMark v-for="fate in one.before" :key="fate" :fate="fate" /><span
              class="to"
              :aria-label="$t('traffic.now')"
              >→</span
            ><FateMark v-for="fate in one.after" :key="fate" :fate="fate" /></span
          >{{ ' ' }}<span class="quiet">{{ $t('traffic.headers', { count: countWords(one.count) }) }}</span>
        </header>
        <p>
          <span class="quiet">{{ $t('common.from') }}</span> <b>{{ some(one.from) }}</b>{{ ' ' }}
          <span class="quiet">{{ $t('traffic.toWord') }}</span>{{ ' ' }}
          <b>{{ some(one.to) }}</b>
        </p>
        <p>{{ some(one.ends) }}</p>
        <ClassList :classes="one.classes" :whole="one.whole" :first="3" />
        <dl v-if="one.decision.before !== null || one.decision.after !== null">
          <dt>{{ $t('traffic.atBefore', { device: one.decision.device }) }}</dt>
          <dd>{{ one.decision.before ?? $t('traffic.notOnThePath') }} <LineLinks :exhibits="one.lines.before" /></dd>
          <dt>{{ $t('traffic.after') }}</dt>
          <dd>{{ one.decision.after ?? $t('traffic.notOnThePath') }} <LineLinks :exhibits="one.lines.after" /></dd>
        </dl>
        <p v-if="one.lines.before.length + one.lines.after.length > 0" class="quiet">
          {{ one.proven ? $t('traffic.withTheseLinesRestoredThe') : $t('traffic.theseLinesDifferNoSmall') }}
        </p>
        <details v-if="one.example">
          <summary>
            {{ $t('traffic.exampleIntro') }} <code>{{ packetWords(one.example.packet) }}</code>
            {{ $t('traffic.atPort', { at: one.example.at, port: one.example.port }) }}
          </summary>
          <h3>A</h3>
          <TraceRows :trace="one.example.before" />
          <h3>B</h3>
          <TraceRows :trace="one.example.after" />
        </details>
      </article>
    </template>
  </div>
</template>

<style scoped>
.ask {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: end;
  padding: 10px 16px 12px;
  margin-bottom: 14px;
}
label {
  display: grid;
  gap: 2px;
  font-size: 13px;
}
.grow {
  flex: 1 1 220px;
}
.b {
  min-height: 30px;
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
input,
select {
  font: inherit;
  min-height: 30px;
  padding: 3px 8px;
  color: inherit;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-quiet));
  border-radius: 3px;
  min-width: 0;
}
.mono,
code {
  font-family: var(--mono);
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
.places {
  margin-bottom: 10px;
}
.change {
  padding: 10px 16px 12px;
  margin-bottom: 10px;
  display: grid;
  gap: 4px;
  overflow-wrap: anywhere;
}
header {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 4px 18px;
}
.fates {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  font-weight: 600;
}
dl {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: 2px 14px;
  margin: 2px 0;
}
dt {
  color: rgb(var(--v-theme-quiet));
  text-align: right;
}
dd {
  margin: 0;
}
h3 {
  font-size: 14px;
  margin: 8px 0 2px;
}
summary {
  cursor: pointer;
  min-height: 24px;
}
@media (max-width: 700px) {
  dl {
    grid-template-columns: minmax(0, 1fr);
  }
  dt {
    text-align: left;
  }
}
</style>
