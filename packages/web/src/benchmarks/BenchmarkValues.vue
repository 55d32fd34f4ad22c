<script setup lang="ts">
import { reactive, ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { BenchmarkView, SetValue } from '../api/types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useEngagement } from '../stores/engagement.ts'

/** The profile and the values of a benchmark for this engagement; what is left empty keeps its default. */
const props = defineProps<{ view: BenchmarkView }>()
const emit = defineEmits<{ saved: [] }>()
const engagement = useEngagement()
const problem = ref('')
const done = ref('')
const asText = (value: SetValue): string => (value === null ? '' : Array.isArray(value) ? value.join(', ') : String(value))
const form = reactive({ profile: props.view.profile, values: Object.fromEntries(props.view.values.map((value) => [value.name, asText(value.set)])) as Record<string, string> })

async function save(): Promise<void> {
  problem.value = ''
  done.value = ''
  try {
    const values = Object.fromEntries(Object.entries(form.values).map(([name, text]) => [name, text.trim() === '' ? null : text.trim()]))
    await api.put(`${engagement.base}/benchmarks/${props.view.id}`, { profile: form.profile, values })
    done.value = 'Kept. The next audit judges by it.'
    emit('saved')
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
const HINT: Readonly<Record<string, string>> = { int: 'a whole number', text: 'text', pattern: 'a pattern in RE2 syntax', hosts: 'addresses or names, separated by commas', prefixes: 'prefixes, separated by commas' }
</script>

<template>
  <form class="panel fit" @submit.prevent="save">
    <v-select v-model="form.profile" :disabled="!engagement.may.fit" :items="view.profiles.map((profile) => ({ value: profile.id, title: `${profile.id}: ${profile.title}` }))" label="Profile" class="profile" />
    <div v-for="value in view.values" :key="value.name" class="value">
      <label :for="`value-${value.name}`"><strong>{{ value.title }}</strong><span class="quiet"><code>{{ value.name }}</code> · {{ HINT[value.type] }}{{ value.unit ? ` in ${value.unit}` : '' }}</span></label>
      <v-text-field :id="`value-${value.name}`" v-model="form.values[value.name]" :disabled="!engagement.may.fit" :placeholder="value.default === null ? 'not set' : `default: ${asText(value.default)}`" persistent-placeholder />
    </div>
    <ProblemNote :text="problem" />
    <div class="end"><span role="status" class="quiet">{{ done }}</span><v-btn v-if="engagement.may.fit" type="submit" variant="flat">Keep</v-btn></div>
  </form>
</template>

<style scoped>
.fit { padding: 16px; display: grid; gap: 12px; max-width: 860px; }
.profile { max-width: 320px; }
.value { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr); gap: 16px; align-items: center; }
.value label { display: grid; }
.end { display: flex; gap: 12px; align-items: center; justify-content: flex-end; }
</style>
