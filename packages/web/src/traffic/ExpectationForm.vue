<script setup lang="ts">
import { listPlaces } from '@jurybox/api/traffic'
import { computed, reactive, watch } from 'vue'
import { t } from '../messages/index.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import { MUSTS, idFor, missingField, type ExpectationFields } from './expectation-form.ts'
import ActionButton from '../shared/ActionButton.vue'

/** One expectation as fields. */
const props = defineProps<{ start: ExpectationFields; problem: string; isNew: boolean; taken: readonly string[] }>()
const emit = defineEmits<{ save: [ExpectationFields]; cancel: [] }>()
const engagement = useEngagement()
const { data: known, problem: unread } = useQuery(listPlaces, () =>
  engagement.b ? { query: { snapshot: engagement.b.id } } : null,
)
const form = reactive({ ...props.start }) as { -readonly [K in keyof ExpectationFields]: ExpectationFields[K] }
const places = computed<readonly string[]>(() => known.value?.places ?? [])
const devices = computed(() => places.value.filter((place) => !/[:/]/.test(place) && place !== 'outside'))
// The id follows the title until somebody writes one.
watch(
  () => form.title,
  (title, before) => {
    if (props.isNew && form.id === idFor(before)) form.id = idFor(title)
  },
)
const MUST_TITLES: Readonly<Record<(typeof MUSTS)[number], string>> = {
  arrive: t('traffic.mustArrive'),
  'not-arrive': t('traffic.mustNotArrive'),
  'be-answered': t('traffic.mustBeAnswered'),
  'pass-through': t('traffic.mustPassThrough'),
  'never-through': t('traffic.mustNeverPass'),
  protected: t('traffic.mustBeProtected'),
  paths: t('traffic.mustHavePaths'),
}
const MISSING = {
  title: t('traffic.enterATitle'),
  from: t('traffic.enterFrom'),
  to: t('traffic.enterTo'),
  id: t('traffic.enterAnId'),
  through: t('traffic.enterTheDevices'),
  by: t('traffic.chooseALayer'),
  between: t('traffic.enterBothDevices'),
} as const
const why = computed(() => {
  const missing = missingField(form)
  return missing === null ? idFault.value : MISSING[missing]
})
const idFault = computed(() =>
  form.id === ''
    ? ''
    : !/^[a-z0-9][a-z0-9-]*$/.test(form.id)
      ? t('traffic.idIsOfLetters')
      : props.taken.includes(form.id)
        ? t('traffic.idIsTaken')
        : '',
)
const musts = MUSTS.map((value) => ({ value, title: MUST_TITLES[value] }))
const PACKETS = [
  { value: 'first', title: t('traffic.packetsThatOpenAConnection') },
  { value: 'all', title: t('traffic.anyFlags') },
]
const LAYERS = [
  { value: 'ipsec', title: 'IPsec' },
  { value: 'macsec', title: 'MACsec' },
  { value: 'attested', title: t('traffic.attestedLayer') },
]
</script>

<template>
  <form class="panel form" :aria-label="$t('traffic.expectation')" @submit.prevent="emit('save', { ...form })">
    <ProblemNote :text="unread" />
    <v-text-field v-model="form.title" :label="$t('common.title')" />
    <div class="two">
      <v-combobox
        v-model="form.from"
        :items="places"
        :label="$t('common.from')"
        multiple
        chips
        closable-chips
        :hint="$t('traffic.placesHint')"
        persistent-hint
      />
      <v-combobox v-model="form.to" :items="places" :label="$t('traffic.to')" multiple chips closable-chips />
    </div>
    <div class="two">
      <v-select v-model="form.must" :items="musts" :label="$t('traffic.traffic')" />
      <v-combobox
        v-if="form.must === 'pass-through' || form.must === 'never-through'"
        v-model="form.through"
        :items="devices"
        :label="$t('common.devices')"
        multiple
        chips
        closable-chips
      />
      <v-select
        v-else-if="form.must === 'protected'"
        v-model="form.by"
        :items="LAYERS"
        :label="$t('traffic.protectedBy')"
        multiple
      />
      <v-select
        v-else-if="form.must === 'paths'"
        v-model="form.paths"
        :items="[2, 3, 4]"
        :label="$t('traffic.numberOfPaths')"
      />
    </div>
    <div v-if="form.must === 'protected'" class="two">
      <v-combobox v-model="form.algorithms" :label="$t('traffic.algorithms')" multiple chips closable-chips />
      <v-combobox
        v-model="form.between"
        :items="devices"
        :label="$t('traffic.betweenDevices')"
        multiple
        chips
        closable-chips
      />
    </div>
    <div class="two">
      <v-text-field
        v-model="form.only"
        :label="$t('traffic.onlyPackets')"
        placeholder="tcp dst port 443"
        class="code"
      />
      <v-select v-model="form.packets" :items="PACKETS" :label="$t('traffic.packets')" />
    </div>
    <div class="three">
      <v-select v-model="form.severity" :items="['high', 'medium', 'low', 'info']" :label="$t('common.severity')" />
      <v-combobox
        v-model="form.references"
        :label="$t('common.requirements')"
        placeholder="pci-dss-4.0.1:1.3.1"
        multiple
        chips
        closable-chips
      />
      <v-text-field v-model="form.id" :error-messages="idFault" :label="$t('traffic.id')" class="code" />
    </div>
    <ProblemNote :text="problem" />
    <div>
      <ActionButton type="submit" variant="flat" :why="why">{{ $t('traffic.saveAndCheck') }}</ActionButton>
      <v-btn variant="text" @click="emit('cancel')">{{ $t('common.cancel') }}</v-btn>
    </div>
  </form>
</template>

<style scoped>
.form {
  padding: 14px 16px;
  margin-bottom: 14px;
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
}
.two {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 10px;
  align-items: start;
}
.three {
  display: grid;
  grid-template-columns: 140px minmax(0, 1fr) minmax(0, 1fr);
  gap: 10px;
}
.code :deep(input) {
  font-family: var(--mono);
  font-size: 12.5px;
}
</style>
