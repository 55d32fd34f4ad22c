<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { useConfirm } from '../stores/confirm.ts'
import { t } from '../messages/index.ts'
import { addGroup, countGroup, deleteGroup, listGroups, tryGroup } from '@jurybox/api/groups'
import { computed, reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import ScopeForm from '../shared/ScopeForm.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import { useQuery } from '../shared/query.ts'
import { useSettled } from '../shared/settled.ts'
import { useEngagement } from '../stores/engagement.ts'
import EstateHead from './EstateHead.vue'
import ActionButton from '../shared/ActionButton.vue'
import { firstOf } from '../shared/words.ts'

const confirm = useConfirm()

/** Saved filters and searches, with the devices that are in them now. */
const engagement = useEngagement()
const listing = useQuery(listGroups, () => ({ query: { snapshot: engagement.b?.id } }))
const { problem, fields, attempt } = listing
const groups = computed(() => listing.data.value ?? [])
const adding = ref(false)
const form = reactive({ title: '', kind: 'filter' as 'filter' | 'search', text: '' })
const opened = ref<number | null>(null)
const KINDS = [
  { value: 'filter', title: t('estate.filterCel') },
  { value: 'search', title: t('common.search') },
]
const HINTS = [
  'device.labels.handles_card_data && "shore" in device.sites',
  'device.changedDays < 7',
  'device.approved == "off"',
  t('estate.interfacesExistsIIMtu'),
  'system.snmp.communities.size() > 0',
]
const typed = useSettled(() => ({ kind: form.kind, text: form.text.trim() }))
const {
  data: trial,
  problem: wrong,
  reading: trying,
  stop: stopTrying,
} = useQuery(tryGroup, () =>
  typed.value.text === '' ? null : { query: { ...typed.value, snapshot: engagement.b?.id } },
)
async function keep(): Promise<void> {
  if (!(await attempt(() => call(addGroup, { body: form })))) return
  Object.assign(form, { title: '', text: '' })
  adding.value = false
}
const total = computed(() =>
  trial.value ? trial.value.inside.length + trial.value.outside.length + trial.value.undecided.length : 0,
)
const columns: Column<(typeof groups.value)[number]>[] = [
  { key: 'group', title: t('estate.group'), value: ({ title }) => title },
  { key: 'text', title: t('estate.filterOrSearch'), value: ({ text }) => text },
  { key: 'devices', title: t('common.devices'), value: ({ inside }) => inside.length, numeric: true },
  { key: 'counted', title: t('estate.onTheOverview'), value: ({ counted }) => (counted ? 'yes' : 'no') },
  { key: 'actions', title: t('common.actions'), value: () => '', acts: true },
]
</script>

<template>
  <div class="page">
    <EstateHead :note="$t('estate.devicesThatMatchAFilter')">
      <v-btn v-if="engagement.may.describe && !adding" variant="flat" @click="adding = true">{{
        $t('estate.addGroup')
      }}</v-btn>
    </EstateHead>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="listing.reading.value ?? trying" @stop="(listing.stop(), stopTrying())" />
    <section v-if="adding" class="panel block">
      <form class="form" @submit.prevent="keep">
        <div class="two">
          <v-text-field v-model="form.title" :error-messages="fields['title']" :label="$t('common.title')" /><v-select
            v-model="form.kind"
            :error-messages="fields['kind']"
            :items="KINDS"
            :label="$t('common.type')"
          />
        </div>
        <ScopeForm v-if="form.kind === 'filter'" v-model="form.text" :label="$t('estate.filter')" :preview="false" />
        <v-textarea
          v-else
          v-model="form.text"
          :error-messages="fields['text']"
          :label="$t('common.search')"
          rows="2"
          auto-grow
          spellcheck="false"
          class="code"
        />
        <p v-if="form.kind === 'filter' && form.text === ''" class="quiet">
          {{ $t('estate.examples') }}
          <template v-for="(hint, i) in HINTS" :key="hint"
            ><template v-if="i > 0">, </template
            ><button type="button" class="as-link mono" @click="form.text = hint">{{ hint }}</button></template
          >
        </p>
        <p v-if="wrong && form.text" class="bad" role="alert">{{ wrong }}</p>
        <div v-else-if="trial" class="who" aria-live="polite">
          <p>
            <b>{{ trial.inside.length }}</b> {{ $t('estate.ofDevicesMatch', { total })
            }}<template v-if="trial.undecided.length > 0"
              >{{ $t('estate.text') }} <b>{{ trial.undecided.length }}</b> {{ $t('estate.undecided') }}</template
            >
          </p>
          <p>
            {{ firstOf(trial.inside, 40) }}
          </p>
          <details v-if="trial.undecided.length > 0">
            <summary>{{ $t('estate.undecidedNames', { undecided: trial.undecided.length }) }}</summary>
            <ul>
              <li v-for="one in trial.undecided.slice(0, 60)" :key="one.device">
                {{ one.device }}: <span class="quiet">{{ one.why }}</span>
              </li>
            </ul>
          </details>
          <details>
            <summary>{{ $t('estate.notInTheGroup', { outside: trial.outside.length }) }}</summary>
            <p class="quiet">{{ trial.outside.slice(0, 200).join(', ') }}</p>
          </details>
        </div>
        <div>
          <ActionButton
            type="submit"
            variant="flat"
            :why="
              form.title.trim() === ''
                ? $t('estate.enterATitle')
                : form.text.trim() === ''
                  ? $t('estate.enterAFilter')
                  : wrong !== ''
                    ? $t('estate.theFilterIsNotValid')
                    : ''
            "
            >{{ $t('common.save') }}</ActionButton
          >
          <v-btn variant="text" @click="adding = false">{{ $t('common.cancel') }}</v-btn>
        </div>
      </form>
    </section>
    <section v-if="groups.length > 0" class="panel">
      <DataTable
        name="groups"
        :label="$t('estate.group')"
        :rows="groups"
        :columns="columns"
        :expanded="({ id }) => opened === id"
      >
        <template #group="{ row: group }">
          <button
            type="button"
            class="as-link"
            :aria-expanded="opened === group.id"
            @click="opened = opened === group.id ? null : group.id"
          >
            {{ group.title }}
          </button>
        </template>
        <template #text="{ row: group }">
          <span class="quiet">{{ group.kind === 'filter' ? 'filter' : 'search' }}</span>{{ ' ' }}
          <code class="text">{{ group.text }}</code>
        </template>
        <template #devices="{ row: group }">
          <router-link :to="{ path: `/e/${engagement.id}/estate`, query: { group: group.title } }">{{
            group.inside.length
          }}</router-link>{{ ' '
          }}<span
            v-if="group.undecided.length > 0"
            class="quiet"
            :title="$t('estate.undecidedCount', { undecided: group.undecided.length })"
          >
            + {{ group.undecided.length }} ?</span
          >
        </template>
        <template #counted="{ row: group }">
          <input
            type="checkbox"
            class="box"
            :checked="group.counted"
            :disabled="!engagement.may.describe"
            :aria-label="$t('estate.showOnTheOverview', { group: group.title })"
            @change="
              attempt(() => call(countGroup, { params: { group: group.id }, body: { counted: !group.counted } }))
            "
          />
        </template>
        <template #actions="{ row: group }">
          <v-btn
            v-if="engagement.may.describe"
            size="small"
            variant="text"
            :aria-label="$t('estate.deleteGroup', { group: group.title })"
            @click="
              confirm.deletion(
                $t('estate.kindGroup'),
                group.title,
                () => attempt(() => call(deleteGroup, { params: { group: group.id } })),
                $t('estate.scopesThatNameIt'),
              )
            "
            >{{ $t('common.delete') }}</v-btn
          >
        </template>
        <template #detail="{ row: group }">
          <p>{{ group.inside.join(', ') || $t('estate.noMembers') }}</p>
          <p v-for="one in group.undecided" :key="one.device" class="quiet">
            {{ $t('estate.undecidedDevice', { device: one.device, why: one.why }) }}
          </p>
          <p class="quiet">
            {{ $t('estate.inTheScopeOfA') }}
            <code>{{ $t('estate.inDeviceGroups', { group: group.title }) }}</code>
          </p>
        </template>
      </DataTable>
    </section>
    <p v-else-if="!adding" class="quiet">{{ $t('estate.noGroupsYetASearch') }}</p>
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
