<script setup lang="ts">
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
      await engagement.open(id)
      const b = Number(route.query['b'])
      if (b > 0) engagement.chosenB = b
      await jobs.listen()
    } catch (error) {
      problem.value = wordsOf(error)
    }
  },
  { immediate: true },
)
// B is a part of the address, so that a link shows a colleague the same moment.
watch(
  () => engagement.chosenB,
  (b) => {
    const latest = engagement.snapshots.at(-1)?.id
    const { b: _, ...rest } = route.query
    void router.replace({ query: b === null || b === latest ? rest : { ...rest, b: String(b) } })
  },
)
watch(
  () => route.path,
  () => exhibit.clear(),
)
onBeforeUnmount(() => jobs.silence())

usePageKeys([{ key: 'l', does: 'Open or close the lines', run: () => exhibit.toggle() }])
</script>

<template>
  <a class="skip" href="#bench">Skip to the page</a>
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
        <ExhibitPanel v-if="route.meta['lines'] && exhibit.open" />
      </div>
    </div>
  </div>
  <KeysDialog />
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
