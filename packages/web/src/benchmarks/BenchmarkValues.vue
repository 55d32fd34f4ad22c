<script setup lang="ts">
import { useUnsaved } from '../shared/unsaved.ts'
import { t } from '../messages/index.ts'
import type { Severity } from '@jurybox/core/rules'
import { type BenchmarkView, type SetValue, fitBenchmark } from '@jurybox/api/benchmarks'
import { reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import { useAttempt } from '../shared/attempt.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import ScopeForm from '../shared/ScopeForm.vue'
import { useEngagement } from '../stores/engagement.ts'

/** The profile and the values of a benchmark for this engagement; what is left empty keeps its default. */
const props = defineProps<{ view: BenchmarkView }>()
const emit = defineEmits<{ saved: [] }>()
const engagement = useEngagement()
const { problem, fields, attempt } = useAttempt()
const done = ref('')
const LEFT_OUT = t('benchmarks.excluded')
const asText = (value: SetValue): string =>
  value === null ? '' : Array.isArray(value) ? value.join(', ') : String(value)
const form = reactive({
  profile: props.view.profile,
  values: Object.fromEntries(props.view.values.map((value) => [value.name, asText(value.set)])) as Record<
    string,
    string
  >,
  overrides: props.view.overrides.map(({ title, scope, values }) => ({
    title,
    scope,
    values: Object.entries(values).map(([name, value]) => ({ name, text: asText(value) })),
  })),
  tailoring: props.view.tailoring.map(({ rule, selected, severity, reason, by }) => ({
    rule,
    what: selected === false ? LEFT_OUT : (severity ?? LEFT_OUT),
    reason,
    by,
  })),
})
const saved = ref(JSON.stringify(form))
useUnsaved(() => JSON.stringify(form) !== saved.value)
const rules = props.view.rules.map(({ id, title }) => ({ value: id, title: `${title} (${id})` }))
const names = props.view.values.map(({ name, title }) => ({ value: name, title }))

async function save(): Promise<void> {
  done.value = ''
  const isSaved = await attempt(async () => {
    const values = Object.fromEntries(
      Object.entries(form.values).map(([name, text]) => [name, text.trim() === '' ? null : text.trim()]),
    )
    await call(fitBenchmark, {
      params: { benchmark: props.view.id },
      body: {
        profile: form.profile,
        values,
        overrides: form.overrides.map(({ title, scope, values: own }) => ({
          title,
          scope,
          values: Object.fromEntries(
            own.filter(({ name }) => name !== '').map(({ name, text }) => [name, text.trim()]),
          ),
        })),
        tailoring: form.tailoring.map(({ rule, what, reason }) => ({
          rule,
          reason,
          ...(what === LEFT_OUT ? { selected: false } : { severity: what as Severity }),
        })),
      },
    })
  })
  if (!isSaved) return
  saved.value = JSON.stringify(form)
  done.value = t('benchmarks.savedTheNextAuditUses')
  emit('saved')
}
const HINT: Readonly<Record<string, string>> = {
  int: t('benchmarks.aWholeNumber'),
  text: t('benchmarks.text'),
  pattern: t('benchmarks.aPatternInRe2Syntax'),
  hosts: t('benchmarks.addressesOrNamesSeparatedBy'),
  prefixes: t('benchmarks.prefixesSeparatedByCommas'),
}
</script>

<template>
  <form class="panel fit" @submit.prevent="save">
    <v-select
      v-model="form.profile"
      :disabled="!engagement.may.fit"
      :items="view.profiles.map((profile) => ({ value: profile.id, title: profile.title }))"
      :label="$t('benchmarks.profileLabel')"
      class="profile"
    />
    <div v-for="value in view.values" :key="value.name" class="value">
      <label :for="`value-${value.name}`"
        ><strong>{{ value.title }}</strong
        >{{ ' '
        }}<span class="quiet"
          ><code>{{ value.name }}</code> · {{ HINT[value.type] }}{{ value.unit ? ` in ${value.unit}` : '' }}</span
        ></label
      >
      <v-text-field
        :id="`value-${value.name}`"
        v-model="form.values[value.name]"
        :error-messages="fields[`values.${value.name}`]"
        :disabled="!engagement.may.fit"
        :placeholder="value.default === null ? $t('benchmarks.notSet') : `default: ${asText(value.default)}`"
        persistent-placeholder
      />
    </div>
    <template v-if="view.values.length > 0">
      <h2>{{ $t('benchmarks.overridesForSomeDevices') }}</h2>
      <p class="quiet">
        {{ $t('benchmarks.otherValuesForTheDevices') }} <code>device.site == "north"</code> {{ $t('benchmarks.or') }}
        <code>device.role in ["core", "edge"]</code>{{ $t('benchmarks.ifSeveralApplyTheLast') }}
      </p>
      <fieldset v-for="(one, i) in form.overrides" :key="i" class="some" :disabled="!engagement.may.fit">
        <v-text-field v-model="one.title" :error-messages="fields[`overrides.${i}.title`]" :label="$t('common.name')" />
        <ScopeForm v-model="one.scope" :label="$t('benchmarks.scope')" :disabled="!engagement.may.fit" />
        <div v-for="(value, j) in one.values" :key="j" class="pair">
          <v-select v-model="value.name" :items="names" :label="$t('benchmarks.value')" /><v-text-field
            v-model="value.text"
            :error-messages="fields[`overrides.${i}.values.${value.name}`]"
            :label="$t('benchmarks.setTo')"
          />
        </div>
        <div class="end">
          <v-btn size="small" variant="text" @click="form.overrides.splice(i, 1)">{{
            $t('benchmarks.deleteOverride', { title: one.title === '' ? '' : `“${one.title}”` })
          }}</v-btn><v-btn size="small" @click="one.values.push({ name: '', text: '' })">{{
            $t('benchmarks.addValue')
          }}</v-btn>
        </div>
      </fieldset>
      <div>
        <v-btn
          v-if="engagement.may.fit"
          size="small"
          @click="form.overrides.push({ title: '', scope: '', values: [{ name: '', text: '' }] })"
          >{{ $t('benchmarks.addOverride') }}</v-btn
        >
      </div>
    </template>
    <template v-if="rules.length > 0">
      <h2>{{ $t('benchmarks.excludedRulesAndChangedSeverities') }}</h2>
      <p class="quiet">{{ $t('benchmarks.theReportListsEachWith') }}</p>
      <fieldset v-for="(one, i) in form.tailoring" :key="i" class="some" :disabled="!engagement.may.fit">
        <div class="pair">
          <v-autocomplete
            v-model="one.rule"
            :error-messages="fields[`tailoring.${i}.rule`]"
            :items="rules"
            :label="$t('common.rule')"
          /><v-select
            v-model="one.what"
            :items="[LEFT_OUT, 'info', 'low', 'medium', 'high']"
            :label="$t('benchmarks.setTo')"
          />
        </div>
        <v-text-field
          v-model="one.reason"
          :error-messages="fields[`tailoring.${i}.reason`]"
          :label="$t('common.reason')"
          :hint="one.by ? $t('benchmarks.decidedBy', { by: one.by }) : ''"
          persistent-hint
        />
        <div class="end">
          <v-btn size="small" variant="text" @click="form.tailoring.splice(i, 1)">{{
            $t('benchmarks.restoreTheBenchmarksSetting')
          }}</v-btn>
        </div>
      </fieldset>
      <div>
        <v-btn
          v-if="engagement.may.fit"
          size="small"
          @click="form.tailoring.push({ rule: '', what: LEFT_OUT, reason: '', by: '' })"
          >{{ $t('benchmarks.tailorARule') }}</v-btn
        >
      </div>
    </template>
    <ProblemNote :text="problem" />
    <div class="end">
      <span role="status" class="quiet">{{ done }}</span><v-btn
        v-if="engagement.may.fit"
        type="submit"
        variant="flat"
        >{{ $t('common.save') }}</v-btn
      >
    </div>
  </form>
</template>

<style scoped>
.fit {
  padding: 16px;
  display: grid;
  gap: 12px;
  max-width: 860px;
}
.profile {
  max-width: 320px;
}
.value {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr);
  gap: 16px;
  align-items: center;
}
.value label {
  display: grid;
}
.some {
  border: var(--hair);
  border-radius: 3px;
  padding: 12px;
  display: grid;
  gap: 10px;
}
.pair {
  align-items: start;
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr);
  gap: 12px;
}
.end {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: flex-end;
}
</style>
