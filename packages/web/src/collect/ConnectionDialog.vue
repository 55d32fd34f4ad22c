<script setup lang="ts">
import { type ConnectionRow, setConnections } from '@jurybox/api/collecting'
import papaparse from 'papaparse'
import { computed, reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import ModalDialog from '../shared/ModalDialog.vue'
import { useDialects } from '../stores/dialects.ts'

/** By which address and port a device answers; one by one, or many as lines of CSV. */
const props = defineProps<{ reach: ConnectionRow | null; dialects: readonly string[] }>()
const emit = defineEmits<{ done: []; left: [] }>()
const names = useDialects()
void names.load()
const { problem, fields, attempt } = useAttempt()
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
  if (await attempt(() => call(setConnections, { body: { devices: devices.value } }))) emit('done')
}
</script>

<template>
  <ModalDialog
    :title="reach ? $t('collect.connectionTo', { device: reach.device }) : $t('collect.deviceConnections')"
    @update:model-value="emit('left')"
  >
    <div class="card">
      <ProblemNote :text="problem" />
      <form @submit.prevent="keep">
        <v-text-field
          v-model="form.device"
          :error-messages="fields['devices.0.device']"
          :label="$t('common.device')"
          :readonly="reach !== null"
          :disabled="many.trim() !== ''"
        />
        <div class="two">
          <v-text-field
            v-model="form.address"
            :error-messages="fields['devices.0.address']"
            :label="$t('collect.nameOrAddress')"
            :disabled="many.trim() !== ''"
          /><v-text-field
            v-model="form.port"
            :error-messages="fields['devices.0.port']"
            :label="$t('collect.port')"
            type="number"
            :disabled="many.trim() !== ''"
          />
        </div>
        <v-select
          v-model="form.dialect"
          :error-messages="fields['devices.0.dialect']"
          :items="dialects.map((value) => ({ value, title: names.nameOf(value) }))"
          :label="$t('collect.dialect')"
          :disabled="many.trim() !== ''"
        />
        <div class="even">
          <v-text-field
            v-model="form.netconfPort"
            :error-messages="fields['devices.0.netconfPort']"
            :label="$t('collect.netconfPortIfSupported')"
            type="number"
            :disabled="many.trim() !== ''"
          /><v-text-field
            v-model="form.snmpPort"
            :error-messages="fields['devices.0.snmpPort']"
            :label="$t('collect.snmpPortForCounters')"
            type="number"
            :disabled="many.trim() !== ''"
          />
        </div>
        <v-checkbox
          v-model="form.old"
          :label="$t('collect.allowSshAlgorithmsDeprecatedBy')"
          :disabled="many.trim() !== ''"
        />
        <v-textarea
          v-if="!reach"
          v-model="many"
          :label="$t('collect.orSeveralAsCsvDevice')"
          rows="4"
          spellcheck="false"
          class="code"
        />
        <div class="end">
          <v-btn variant="text" @click="emit('left')">{{ $t('common.cancel') }}</v-btn><v-btn
            type="submit"
            variant="flat"
            >{{ $t('collect.save', { many: many.trim() ? ` ${devices.length} devices` : '' }) }}</v-btn
          >
        </div>
      </form>
    </div>
  </ModalDialog>
</template>

<style scoped>
.card {
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
