<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { GroupRow, GroupTrial } from '../api/estate-types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { usePolling } from '../shared/polling.ts'
import { useEngagement } from '../stores/engagement.ts'
import EstateHead from './EstateHead.vue'

/** Saved filters and searches, with the devices that are in them now. */
const engagement = useEngagement()
const listing = usePolling()
const trying = usePolling()
const groups = ref<GroupRow[]>([])
const { problem, attempt } = useAttempt(() => load())
const adding = ref(false)
const form = reactive({ title: '', kind: 'filter' as 'filter' | 'search', text: '' })
const trial = ref<GroupTrial | null>(null)
const wrong = ref('')
const opened = ref<number | null>(null)
async function load(): Promise<void> {
  const found = await listing.ask<GroupRow[]>(`${engagement.base}/groups`, { snapshot: engagement.b?.id })
  if (found) groups.value = found
}
watch(
  () => engagement.b?.id,
  () => void attempt(async () => undefined),
  { immediate: true },
)
const KINDS = [
  { value: 'filter', title: 'Filter (CEL)' },
  { value: 'search', title: 'Search' },
]
const HINTS = [
  'device.labels.handles_card_data && "shore" in device.sites',
  'device.changedDays < 7',
  'device.approved == "off"',
  'interfaces.exists(i, i.mtu > 1600)',
  'system.snmp.communities.size() > 0',
]
let timer: ReturnType<typeof setTimeout> | undefined
watch([() => form.text, () => form.kind, () => engagement.b?.id], () => {
  clearTimeout(timer)
  if (form.text.trim() === '') return void (trial.value = null)
  timer = setTimeout(async () => {
    try {
      const answer = await trying.ask<GroupTrial>(`${engagement.base}/groups/try`, {
        kind: form.kind,
        text: form.text,
        snapshot: engagement.b?.id,
      })
      if (answer) trial.value = answer
      wrong.value = ''
    } catch (error) {
      wrong.value = wordsOf(error)
    }
  }, 350)
})
async function keep(): Promise<void> {
  if (!(await attempt(() => api.post(`${engagement.base}/groups`, form)))) return
  Object.assign(form, { title: '', text: '' })
  adding.value = false
}
const total = computed(() =>
  trial.value ? trial.value.inside.length + trial.value.outside.length + trial.value.undecided.length : 0,
)
</script>

<template>
  <div class="page">
    <EstateHead
      note="Devices for which a filter holds, or that a search finds; as of B, and again as of any other snapshot"
    >
      <v-btn v-if="engagement.may.describe && !adding" variant="flat" @click="adding = true">Make a group</v-btn>
    </EstateHead>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="listing.reading.value ?? trying.reading.value" @stop="(listing.stop(), trying.stop())" />
    <section v-if="adding" class="panel block">
      <form class="form" @submit.prevent="keep">
        <div class="two">
          <v-text-field v-model="form.title" label="Title" /><v-select
            v-model="form.kind"
            :items="KINDS"
            label="Kind"
          />
        </div>
        <v-textarea
          v-model="form.text"
          :label="form.kind === 'filter' ? 'Filter' : 'Search'"
          rows="2"
          auto-grow
          spellcheck="false"
          class="code"
        />
        <p v-if="form.kind === 'filter' && form.text === ''" class="quiet">
          Such as
          <template v-for="(hint, i) in HINTS" :key="hint"
            ><template v-if="i > 0">, </template
            ><button type="button" class="as-link mono" @click="form.text = hint">{{ hint }}</button></template
          >
        </p>
        <p v-if="wrong && form.text" class="bad" role="alert">{{ wrong }}</p>
        <div v-else-if="trial" class="who" aria-live="polite">
          <p>
            <b>{{ trial.inside.length }}</b> of {{ total }} are in<template v-if="trial.undecided.length > 0"
              >, of <b>{{ trial.undecided.length }}</b> it cannot be said</template
            >
          </p>
          <p>
            {{ trial.inside.slice(0, 40).join(', ')
            }}<template v-if="trial.inside.length > 40"> and {{ trial.inside.length - 40 }} more</template>
          </p>
          <details v-if="trial.undecided.length > 0">
            <summary>Not said of {{ trial.undecided.length }}</summary>
            <ul>
              <li v-for="one in trial.undecided.slice(0, 60)" :key="one.device">
                {{ one.device }}: <span class="quiet">{{ one.why }}</span>
              </li>
            </ul>
          </details>
          <details>
            <summary>Out: {{ trial.outside.length }}</summary>
            <p class="quiet">{{ trial.outside.slice(0, 200).join(', ') }}</p>
          </details>
        </div>
        <div>
          <v-btn type="submit" variant="flat" :disabled="!form.title.trim() || !form.text.trim() || wrong !== ''"
            >Keep it</v-btn
          >
          <v-btn variant="text" @click="adding = false">Leave</v-btn>
        </div>
      </form>
    </section>
    <section v-if="groups.length > 0" class="panel">
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">Group</th>
            <th scope="col">Holds who</th>
            <th scope="col" class="num">Devices</th>
            <th scope="col">On the overview</th>
            <th scope="col"><span class="sr">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <template v-for="group in groups" :key="group.id">
            <tr>
              <td>
                <button
                  type="button"
                  class="as-link"
                  :aria-expanded="opened === group.id"
                  @click="opened = opened === group.id ? null : group.id"
                >
                  {{ group.title }}
                </button>
              </td>
              <td>
                <span class="quiet">{{ group.kind === 'filter' ? 'filter' : 'search' }}</span>{{ ' ' }}
                <code class="text">{{ group.text }}</code>
              </td>
              <td class="num">
                <router-link :to="{ path: `/e/${engagement.id}/estate`, query: { group: group.title } }">{{
                  group.inside.length
                }}</router-link><span
                  v-if="group.undecided.length > 0"
                  class="quiet"
                  :title="`Of ${group.undecided.length} it cannot be said`"
                >
                  + {{ group.undecided.length }} ?</span
                >
              </td>
              <td>
                <input
                  type="checkbox"
                  class="box"
                  :checked="group.counted"
                  :disabled="!engagement.may.describe"
                  :aria-label="`Count ${group.title} on the overview`"
                  @change="attempt(() => api.put(`${engagement.base}/groups/${group.id}`, { counted: !group.counted }))"
                />
              </td>
              <td class="acts">
                <v-btn
                  v-if="engagement.may.describe"
                  size="small"
                  variant="text"
                  :aria-label="`Forget ${group.title}`"
                  @click="attempt(() => api.delete(`${engagement.base}/groups/${group.id}`))"
                  >Forget</v-btn
                >
              </td>
            </tr>
            <tr v-if="opened === group.id">
              <td colspan="5">
                <p>{{ group.inside.join(', ') || 'Nobody is in it.' }}</p>
                <p v-for="one in group.undecided" :key="one.device" class="quiet">
                  {{ one.device }}: it cannot be said, {{ one.why }}
                </p>
                <p class="quiet">
                  In the scope of a rule: <code>"{{ group.title }}" in device.groups</code>
                </p>
              </td>
            </tr>
          </template>
        </tbody>
      </table>
    </section>
    <p v-else-if="!adding" class="quiet">No group was saved yet. A search can be saved as one, too.</p>
  </div>
</template>

<style scoped>
.block {
  padding: 12px 16px;
  margin-bottom: 14px;
}
.form {
  display: grid;
  gap: 10px;
}
.two {
  display: grid;
  grid-template-columns: 2fr 1fr;
  gap: 10px;
}
.code :deep(textarea),
.text {
  font-family: var(--mono);
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
.bad {
  color: rgb(var(--v-theme-fail));
  overflow-wrap: anywhere;
}
.who {
  display: grid;
  gap: 4px;
}
summary {
  cursor: pointer;
  min-height: 24px;
}
.box {
  width: 18px;
  height: 18px;
  margin: 3px;
  accent-color: rgb(var(--v-theme-primary));
}
.acts {
  text-align: right;
}
</style>
