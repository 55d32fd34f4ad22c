<script setup lang="ts">
import { t } from '../messages/index.ts'
import { onBeforeUnmount, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { wordsOf } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { usePageKeys } from '../shared/keys.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import { useJobs } from '../stores/jobs.ts'
import AppBar from './AppBar.vue'
import AppRail from './AppRail.vue'
import ChronicleStrip from './ChronicleStrip.vue'
import ExhibitPanel from './ExhibitPanel.vue'
import KeysDialog from './KeysDialog.vue'
import ToastList from './ToastList.vue'

/** Rail, bar, chronicle and bench: the frame of every page of an engagement. */
const route = useRoute()
const router = useRouter()
const engagement = useEngagement()
const jobs = useJobs()
const exhibit = useExhibit()
const problem = ref('')

watch(
  () => Number(route.params['engagement']),
  async (id) => {
    if (!id) return
    problem.value = ''
    try {
      // Read before: once it is open, the address follows what is selected.
      const [a, b] = [Number(route.query['a']), Number(route.query['b'])]
      await engagement.open(id)
      if (a > 0) engagement.chosenA = a
      if (b > 0) engagement.chosenB = b
      await jobs.listen()
    } catch (error) {
      problem.value = wordsOf(error)
    }
  },
  { immediate: true },
)
// The selected snapshots are a part of the address: Back and Forward of the browser select as well.
watch(
  () => [engagement.selectedA, engagement.selectedB] as const,
  ([a, b]) => {
    const { a: namedA, b: namedB, ...rest } = route.query
    if (String(a ?? '') === String(namedA ?? '') && String(b ?? '') === String(namedB ?? '')) return
    void router.push({
      query: { ...rest, ...(a === null ? {} : { a: String(a) }), ...(b === null ? {} : { b: String(b) }) },
    })
  },
)
watch(
  () => [route.query['a'], route.query['b']] as const,
  ([namedA, namedB]) => {
    if (Number(route.params['engagement']) !== engagement.id) return
    const [a, b] = [Number(namedA) || null, Number(namedB) || null]
    if (b !== engagement.selectedB) engagement.chosenB = b
    if (a !== engagement.selectedA) engagement.chosenA = a
  },
)
watch(
  () => route.path,
  () => exhibit.clear(),
)
onBeforeUnmount(() => jobs.silence())

usePageKeys([
  { key: 'l', does: t('frame.openOrCloseTheEvidence'), run: () => exhibit.toggle() },
  { key: '[', does: t('frame.snapshotBefore'), run: () => engagement.step(-1) },
  { key: ']', does: t('frame.snapshotAfter'), run: () => engagement.step(1) },
])
</script>

<template>
  <a class="skip" href="#bench">{{ $t('frame.skipToContent') }}</a>
  <div class="frame">
    <AppRail />
    <div class="right">
      <AppBar />
      <ChronicleStrip />
      <div class="bench">
        <main id="bench" class="main" tabindex="-1">
          <ProblemNote :text="problem" />
          <router-view v-if="engagement.view" />
        </main>
        <ExhibitPanel v-if="route.meta['evidence'] && exhibit.open && exhibit.hasSomething" />
      </div>
    </div>
  </div>
  <KeysDialog />
  <ToastList />
</template>

<style scoped>
.frame {
  display: flex;
  height: 100vh;
  width: 100%;
}
.right {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
.bench {
  flex: 1;
  min-height: 0;
  display: flex;
}
.main {
  position: relative;
  flex: 1;
  min-width: 0;
  overflow: auto;
  outline: none !important;
}
@media (max-width: 900px) {
  .bench {
    flex-direction: column;
    overflow: auto;
  }
  .main {
    overflow: visible;
    flex: none;
  }
}
</style>
