<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { api } from '../api/client.ts'
import type { LabelsView } from '../api/estate-types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'

/** One label of many devices: who is in, who is out and why; then what came of each. */
const props = defineProps<{
  devices: readonly { id: number; name: string; labels: Readonly<Record<string, unknown>> }[]
}>()
const emit = defineEmits<{ done: []; left: [] }>()
const engagement = useEngagement()
const { problem, attempt } = useAttempt()
const labels = ref<LabelsView['defined']>([])
const name = ref('')
const text = ref('')
const came = ref<{ device: string; what: string }[] | null>(null)
onMounted(() =>
  attempt(async () => {
    labels.value = (await api.get<LabelsView>(`${engagement.base}/labels`)).defined
    name.value = labels.value[0]?.name ?? ''
  }),
)
const label = computed(() => labels.value.find((one) => one.name === name.value) ?? null)
const FLAGS = [
  { value: 'yes', title: 'yes' },
  { value: 'no', title: 'no' },
]
watch(name, () => (text.value = ''))
const wordOf = (value: unknown): string =>
  value === undefined ? '' : typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value)
/** Who would be another than before. */
const touched = computed(() =>
  props.devices
    .map((device) => ({ name: device.name, before: wordOf(device.labels[name.value]) }))
    .map((one) => ({ ...one, in: one.before !== text.value.trim() })),
)
const inside = computed(() => touched.value.filter((one) => one.in))
const set = () =>
  attempt(async () => {
    came.value = (
      await api.post<{ came: { device: string; what: string }[] }>(`${engagement.base}/labels/set`, {
        label: name.value,
        value: text.value.trim() === '' ? null : text.value.trim(),
        devices: inside.value.map((one) => one.name),
      })
    ).came
  })
</script>

<template>
  <v-dialog :model-value="true" aria-label="Set a label" @update:model-value="came ? emit('done') : emit('left')">
    <v-card class="card">
      <h2>Set a label of {{ devices.length }} {{ devices.length === 1 ? 'device' : 'devices' }}</h2>
      <ProblemNote :text="problem" />
      <template v-if="!came">
        <p v-if="labels.length === 0" class="quiet">
          No label is defined yet.
          <router-link :to="`/e/${engagement.id}/estate/labels`">Define one</router-link> first.
        </p>
        <form v-else class="form" @submit.prevent="set">
          <v-select
            v-model="name"
            :items="labels.map((one) => ({ value: one.name, title: `${one.name.replaceAll('_', ' ')} (${one.type})` }))"
            label="Label"
          />
          <v-select
            v-if="label?.type === 'choice' || label?.type === 'flag'"
            v-model="text"
            :items="label.type === 'flag' ? FLAGS : label.choices"
            clearable
            label="Value; nothing takes the label away"
            @update:model-value="text = $event ?? ''"
          />
          <v-text-field
            v-else
            v-model="text"
            :type="label?.type === 'date' ? 'date' : 'text'"
            label="Value; nothing takes the label away"
          />
        </form>
        <div v-if="labels.length > 0" class="who">
          <table class="rows">
            <thead>
              <tr>
                <th scope="col">Device</th>
                <th scope="col">Now</th>
                <th scope="col">Then</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in touched" :key="one.name" :class="{ out: !one.in }">
                <td>{{ one.name }}</td>
                <td>{{ one.before || 'none' }}</td>
                <td>{{ one.in ? text.trim() || 'none' : 'out: it has this already' }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <div class="end">
          <v-btn variant="text" @click="emit('left')">Leave</v-btn
          ><v-btn variant="flat" :disabled="!label || inside.length === 0" @click="set">{{
            text.trim() === '' ? `Take it away from ${inside.length}` : `Set it for ${inside.length}`
          }}</v-btn>
        </div>
      </template>
      <template v-else>
        <div class="who" role="status">
          <table class="rows">
            <tbody>
              <tr v-for="one in came" :key="one.device">
                <td>{{ one.device }}</td>
                <td>{{ one.what }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <div class="end"><v-btn variant="flat" @click="emit('done')">Close</v-btn></div>
      </template>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.card {
  padding: 18px 20px;
  display: grid;
  gap: 12px;
}
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.who {
  max-height: 40vh;
  overflow: auto;
  border: var(--hair);
  border-radius: 3px;
}
.out td {
  color: rgb(var(--v-theme-quiet));
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
