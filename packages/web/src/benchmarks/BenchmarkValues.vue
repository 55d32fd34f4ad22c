<script setup lang="ts">
import { reactive, ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { BenchmarkView, SetValue } from '../api/types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import ScopeMembers from '../shared/ScopeMembers.vue'
import { useEngagement } from '../stores/engagement.ts'

/** The profile and the values of a benchmark for this engagement; what is left empty keeps its default. */
const props = defineProps<{ view: BenchmarkView }>()
const emit = defineEmits<{ saved: [] }>()
const engagement = useEngagement()
const problem = ref('')
const done = ref('')
const LEFT_OUT = 'left out'
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
const rules = props.view.rules.map(({ id, title }) => ({ value: id, title: `${title} (${id})` }))
const names = props.view.values.map(({ name, title }) => ({ value: name, title }))

async function save(): Promise<void> {
  problem.value = ''
  done.value = ''
  try {
    const values = Object.fromEntries(
      Object.entries(form.values).map(([name, text]) => [name, text.trim() === '' ? null : text.trim()]),
    )
    await api.put(`${engagement.base}/benchmarks/${props.view.id}`, {
      profile: form.profile,
      values,
      overrides: form.overrides.map(({ title, scope, values: own }) => ({
        title,
        scope,
        values: Object.fromEntries(own.filter(({ name }) => name !== '').map(({ name, text }) => [name, text.trim()])),
      })),
      tailoring: form.tailoring.map(({ rule, what, reason }) => ({
        rule,
        reason,
        ...(what === LEFT_OUT ? { selected: false } : { severity: what }),
      })),
    })
    done.value = 'Kept. The next audit judges by it.'
    emit('saved')
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
const HINT: Readonly<Record<string, string>> = {
  int: 'a whole number',
  text: 'text',
  pattern: 'a pattern in RE2 syntax',
  hosts: 'addresses or names, separated by commas',
  prefixes: 'prefixes, separated by commas',
}
</script>

<template>
  <form class="panel fit" @submit.prevent="save">
    <v-select
      v-model="form.profile"
      :disabled="!engagement.may.fit"
      :items="view.profiles.map((profile) => ({ value: profile.id, title: `${profile.id}: ${profile.title}` }))"
      label="Profile"
      class="profile"
    />
    <div v-for="value in view.values" :key="value.name" class="value">
      <label :for="`value-${value.name}`"
        ><strong>{{ value.title }}</strong
        ><span class="quiet"
          ><code>{{ value.name }}</code> · {{ HINT[value.type] }}{{ value.unit ? ` in ${value.unit}` : '' }}</span
        ></label
      >
      <v-text-field
        :id="`value-${value.name}`"
        v-model="form.values[value.name]"
        :disabled="!engagement.may.fit"
        :placeholder="value.default === null ? 'not set' : `default: ${asText(value.default)}`"
        persistent-placeholder
      />
    </div>
    <template v-if="view.values.length > 0">
      <h2>For some devices</h2>
      <p class="quiet">
        Other values where a scope holds, such as <code>device.site == "north"</code> or
        <code>device.role in ["core", "edge"]</code>. A later one goes before an earlier one.
      </p>
      <fieldset v-for="(one, i) in form.overrides" :key="i" class="some" :disabled="!engagement.may.fit">
        <div class="pair">
          <v-text-field v-model="one.title" label="Called" /><v-text-field
            v-model="one.scope"
            label="Scope"
            class="mono"
          />
        </div>
        <ScopeMembers :text="one.scope" />
        <div v-for="(value, j) in one.values" :key="j" class="pair">
          <v-select v-model="value.name" :items="names" label="Value" /><v-text-field v-model="value.text" label="Is" />
        </div>
        <div class="end">
          <v-btn size="small" variant="text" @click="form.overrides.splice(i, 1)"
            >Take {{ one.title === '' ? 'it' : `“${one.title}”` }} out</v-btn
          ><v-btn size="small" @click="one.values.push({ name: '', text: '' })">One more value</v-btn>
        </div>
      </fieldset>
      <div>
        <v-btn
          v-if="engagement.may.fit"
          size="small"
          @click="form.overrides.push({ title: '', scope: '', values: [{ name: '', text: '' }] })"
          >Values for some devices</v-btn
        >
      </div>
    </template>
    <template v-if="rules.length > 0">
      <h2>Left out, or of other severity</h2>
      <p class="quiet">The report prints each with its reason and who decided it.</p>
      <fieldset v-for="(one, i) in form.tailoring" :key="i" class="some" :disabled="!engagement.may.fit">
        <div class="pair">
          <v-autocomplete v-model="one.rule" :items="rules" label="Rule" /><v-select
            v-model="one.what"
            :items="[LEFT_OUT, 'info', 'low', 'medium', 'high']"
            label="Is"
          />
        </div>
        <v-text-field
          v-model="one.reason"
          label="Reason"
          :hint="one.by ? `Decided by ${one.by}` : ''"
          persistent-hint
        />
        <div class="end">
          <v-btn size="small" variant="text" @click="form.tailoring.splice(i, 1)">As the benchmark states it</v-btn>
        </div>
      </fieldset>
      <div>
        <v-btn
          v-if="engagement.may.fit"
          size="small"
          @click="form.tailoring.push({ rule: '', what: LEFT_OUT, reason: '', by: '' })"
          >Tailor a rule</v-btn
        >
      </div>
    </template>
    <ProblemNote :text="problem" />
    <div class="end">
      <span role="status" class="quiet">{{ done }}</span><v-btn v-if="engagement.may.fit" type="submit" variant="flat"
        >Keep</v-btn
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
