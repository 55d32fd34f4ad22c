<script setup lang="ts">
import papaparse from 'papaparse'
import { computed, reactive, ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { ConnectionRow } from '../api/types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useEngagement } from '../stores/engagement.ts'

/** By which address and port a device answers; one by one, or many as lines of CSV. */
const props = defineProps<{ reach: ConnectionRow | null; dialects: readonly string[] }>()
const emit = defineEmits<{ done: []; left: [] }>()
const engagement = useEngagement()
const problem = ref('')
const many = ref('')
const form = reactive({
  device: props.reach?.device ?? '',
  dialect: props.reach?.dialect ?? props.dialects[0] ?? '',
  address: props.reach?.address ?? '',
  port: props.reach?.port ?? 22,
  old: props.reach?.old ?? false,
  netconfPort: props.reach?.netconfPort?.toString() ?? '',
  snmpPort: props.reach?.snmpPort?.toString() ?? '',
})
const portIn = (text: string): number | null => (text.trim() === '' ? null : Number(text))
const devices = computed(() => {
  if (many.value.trim() === '')
    return [
      { ...form, port: Number(form.port), netconfPort: portIn(form.netconfPort), snmpPort: portIn(form.snmpPort) },
    ]
  return papaparse
    .parse<string[]>(many.value.trim(), { skipEmptyLines: true })
    .data.map(([device = '', dialect = '', address = '', port = '', netconf = '', snmp = '']) => ({
      device: device.trim(),
      dialect: dialect.trim(),
      address: address.trim(),
      port: Number(port.trim() || 22),
      old: false,
      netconfPort: portIn(netconf),
      snmpPort: portIn(snmp),
    }))
})
async function keep(): Promise<void> {
  problem.value = ''
  try {
    await api.put(`${engagement.base}/reach`, { devices: devices.value })
    emit('done')
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
</script>

<template>
  <v-dialog :model-value="true" @update:model-value="emit('left')">
    <v-card class="card">
      <h2>{{ reach ? `How ${reach.device} is reached` : 'How devices are reached' }}</h2>
      <ProblemNote :text="problem" />
      <form @submit.prevent="keep">
        <v-text-field v-model="form.device" label="Device" :readonly="reach !== null" :disabled="many.trim() !== ''" />
        <div class="two">
          <v-text-field v-model="form.address" label="Name or address" :disabled="many.trim() !== ''" /><v-text-field
            v-model="form.port"
            label="Port"
            type="number"
            :disabled="many.trim() !== ''"
          />
        </div>
        <v-select v-model="form.dialect" :items="[...dialects]" label="Dialect" :disabled="many.trim() !== ''" />
        <div class="even">
          <v-text-field
            v-model="form.netconfPort"
            label="NETCONF port, if it has it"
            type="number"
            :disabled="many.trim() !== ''"
          /><v-text-field
            v-model="form.snmpPort"
            label="SNMP port, for counters"
            type="number"
            :disabled="many.trim() !== ''"
          />
        </div>
        <v-checkbox
          v-model="form.old"
          label="May speak algorithms that RFC 9142 deprecates"
          :disabled="many.trim() !== ''"
        />
        <v-textarea
          v-if="!reach"
          v-model="many"
          label="Or many: device,dialect,address,port,netconf,snmp"
          rows="4"
          spellcheck="false"
          class="code"
        />
        <div class="end">
          <v-btn variant="text" @click="emit('left')">Leave</v-btn
          ><v-btn type="submit" variant="flat">Keep{{ many.trim() ? ` ${devices.length} devices` : '' }}</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.card {
  padding: 18px 20px;
  display: grid;
  gap: 12px;
}
form {
  display: grid;
  gap: 10px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 120px;
  gap: 10px;
}
.even {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.code :deep(textarea) {
  font-family: var(--mono);
  font-size: 12.5px;
}
</style>
