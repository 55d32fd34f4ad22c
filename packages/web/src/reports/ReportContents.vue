<script setup lang="ts">
import { listDevices } from '@jurybox/api/devices'
import { listSites } from '@jurybox/api/labels'
import { removeLogo, setLogo, type ReportChoice } from '@jurybox/api/reports'
import {
  AUDIENCES,
  AUDIENCE_IDS,
  DEFAULT_LANGUAGE,
  SECTION_IDS,
  textsOf,
  type Audience,
  type SectionId,
} from '@jurybox/core/report'
import { mdiArrowDown, mdiArrowUp } from '@mdi/js'
import { computed, ref } from 'vue'
import { call, upload } from '../api/client.ts'
import { t } from '../messages/index.ts'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { firstFile } from '../shared/files.ts'
import { useAttempt } from '../shared/attempt.ts'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import { moved } from './choice.ts'

/** What a report consists of and what its first page says. Applied at once: the preview follows. */
const props = defineProps<{ snapshot: number; topics: readonly string[]; hasLogo: boolean }>()
const emit = defineEmits<{ logo: [] }>()
const choice = defineModel<ReportChoice>({ required: true })
const engagement = useEngagement()
const { problem, attempt } = useAttempt(() => emit('logo'))
const choosing = ref(false)

const AUDIENCE_TITLES: Readonly<Record<Audience, string>> = {
  technical: t('reports.audienceTechnical'),
  management: t('reports.audienceManagement'),
  assessor: t('reports.audienceAssessor'),
  remediation: t('reports.audienceRemediation'),
}
const audiences = AUDIENCE_IDS.map((value) => ({ value, title: AUDIENCE_TITLES[value] }))
const set = (part: Partial<ReportChoice>): ReportChoice => (choice.value = { ...choice.value, ...part })
/** An audience brings its own sections: those that were chosen before it are gone. */
const chooseAudience = (audience: Audience) => set({ audience, sections: [] })

const say = textsOf(DEFAULT_LANGUAGE)
const titleOf = (section: SectionId) => say(`section.${section}`)
const sections = computed<readonly SectionId[]>(() =>
  choice.value.sections.length > 0 ? choice.value.sections : AUDIENCES[choice.value.audience],
)
const left = computed(() => SECTION_IDS.filter((one) => !sections.value.includes(one)))
const move = (at: number, by: -1 | 1) => set({ sections: moved(sections.value, at, by) })
const add = (section: SectionId) => set({ sections: [...sections.value, section] })
/** A report without a section would be one with all of them: the last one stays. */
const remove = (section: SectionId) =>
  sections.value.length > 1 && set({ sections: sections.value.filter((one) => one !== section) })

const asked = () => (choosing.value ? { query: { snapshot: props.snapshot } } : null)
const { data: devices } = useQuery(listDevices, asked)
const { data: sites } = useQuery(listSites, () => (choosing.value ? {} : null))
const names = computed(() => devices.value?.devices.map(({ name }) => name) ?? [])
const places = computed(() => sites.value?.map(({ name, title }) => ({ value: name, title: title || name })) ?? [])
const limits = computed(() =>
  [choice.value.device, choice.value.site, choice.value.topic].filter((one) => one !== '').join(', '),
)

function pick(file: File | File[] | null): void {
  const one = firstFile(file)
  if (one) void attempt(() => upload(setLogo, [{ path: one.name, file: one }]))
}
</script>

<template>
  <section class="panel contents">
    <h2>{{ $t('reports.contents') }}</h2>
    <v-select
      :model-value="choice.audience"
      :items="audiences"
      :label="$t('reports.audience')"
      hide-details
      @update:model-value="chooseAudience"
    />
    <p class="quiet">
      {{ $t('reports.sectionCount', sections.length)
      }}<template v-if="limits !== ''">; {{ $t('reports.limitedTo', { limits }) }}</template>
    </p>
    <v-btn variant="tonal" size="small" @click="choosing = true">{{ $t('reports.changeContents') }}</v-btn>
    <ModalDialog v-model="choosing" :title="$t('reports.changeContents')" :width="720">
      <ProblemNote :text="problem" />
      <div class="two">
        <div class="fields">
          <h3>{{ $t('reports.firstPage') }}</h3>
          <v-text-field
            v-for="[field, label] in [
              ['title', $t('reports.title')],
              ['auditor', $t('reports.auditor')],
              ['confidentiality', $t('reports.confidentiality')],
            ] as const"
            :key="field"
            :model-value="choice[field]"
            :label="label"
            maxlength="160"
            hide-details
            @change="set({ [field]: ($event.target as HTMLInputElement).value.trim() })"
          />
          <template v-if="engagement.may.manage">
            <v-file-input
              :label="$t('reports.logo')"
              accept="image/png,image/jpeg"
              :hint="$t('reports.logoHint')"
              persistent-hint
              prepend-icon=""
              @update:model-value="pick"
            />
            <v-btn v-if="hasLogo" variant="text" size="small" @click="attempt(() => call(removeLogo))">{{
              $t('reports.removeLogo')
            }}</v-btn>
          </template>
          <h3>{{ $t('reports.limit') }}</h3>
          <v-autocomplete
            v-for="{ field, label, items } in [
              { field: 'site', label: $t('reports.limitSite'), items: places },
              { field: 'device', label: $t('reports.limitDevice'), items: names },
              { field: 'topic', label: $t('reports.limitTopic'), items: [...topics] },
            ]"
            :key="field"
            :model-value="choice[field as 'site'] || null"
            :items="items"
            :label="label"
            clearable
            hide-details
            @update:model-value="(value: string | null) => set({ [field]: value ?? '' })"
          />
        </div>
        <div>
          <h3 id="sections-of-report">{{ $t('reports.sections') }}</h3>
          <ol class="sections" aria-labelledby="sections-of-report">
            <li v-for="(section, i) in sections" :key="section">
              <v-checkbox
                :model-value="true"
                :label="titleOf(section)"
                density="compact"
                hide-details
                @update:model-value="remove(section)"
              />
              <v-btn
                :icon="mdiArrowUp"
                size="x-small"
                variant="text"
                :disabled="i === 0"
                :aria-label="$t('reports.moveUp', { section: titleOf(section) })"
                @click="move(i, -1)"
              />
              <v-btn
                :icon="mdiArrowDown"
                size="x-small"
                variant="text"
                :disabled="i === sections.length - 1"
                :aria-label="$t('reports.moveDown', { section: titleOf(section) })"
                @click="move(i, 1)"
              />
            </li>
          </ol>
          <v-checkbox
            v-for="section in left"
            :key="section"
            :model-value="false"
            :label="titleOf(section)"
            density="compact"
            hide-details
            @update:model-value="add(section)"
          />
        </div>
      </div>
      <template #actions>
        <v-btn variant="flat" @click="choosing = false">{{ $t('common.close') }}</v-btn>
      </template>
    </ModalDialog>
  </section>
</template>

<style scoped>
.contents {
  padding: 14px 16px;
  display: grid;
  gap: 8px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 24px;
  padding-top: 10px;
}
.fields {
  display: grid;
  gap: 10px;
  align-content: start;
}
h3 {
  font-size: 14px;
}
.sections {
  list-style: none;
  padding: 0;
  margin: 0;
}
.sections li {
  display: flex;
  align-items: center;
}
.sections li > :first-child {
  flex: 1;
}
@media (max-width: 700px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
