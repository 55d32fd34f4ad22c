<script setup lang="ts">
import { listPlaces, setOutside } from '@jurybox/api/traffic'
import { computed, ref } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'

/** The ports that lead out of the estate: told by themselves, or declared by people. */
const emit = defineEmits<{ changed: [] }>()
const engagement = useEngagement()
const {
  data: places,
  problem,
  reading,
  stop,
  attempt,
} = useQuery(listPlaces, () => ({ query: { snapshot: engagement.b?.id } }), { changed: () => emit('changed') })
const editing = ref(false)
const chosen = ref<string[]>([])
const busy = ref(false)
const ports = computed(() =>
  [...new Set([...(places.value?.points ?? []).filter((point) => point.includes(':')), ...chosen.value])].sort(),
)

function begin(): void {
  chosen.value = [...(places.value?.outside ?? [])]
  editing.value = true
}
async function save(declared: readonly string[]): Promise<void> {
  busy.value = true
  if (await attempt(() => call(setOutside, { body: { ports: declared } }))) editing.value = false
  busy.value = false
}
</script>

<template>
  <section class="panel outside" aria-labelledby="outside-title">
    <div class="head">
      <h2 id="outside-title">{{ $t('traffic.outsideInterfaces') }}</h2>
      <v-btn v-if="engagement.may.writeRules && places && !editing" size="small" @click="begin">{{
        $t('traffic.declareOutsideInterfaces')
      }}</v-btn>
    </div>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop" />
    <template v-if="places && !editing">
      <p data-part="outside">
        <template v-if="places.outside.length > 0"
          ><code v-for="port in places.outside" :key="port">{{ port }}</code></template
        ><span v-else class="quiet">{{ $t('common.none') }}</span>
      </p>
      <p class="quiet">
        {{
          places.declared ? $t('traffic.declaredPacketsLeaveTheEstate') : $t('traffic.notDeclaredInferredFromGateways')
        }}
      </p>
    </template>
    <form v-else-if="places" @submit.prevent="save(chosen)">
      <v-autocomplete
        v-model="chosen"
        :items="ports"
        :label="$t('traffic.interfacesThatLeadOutside')"
        multiple
        chips
        closable-chips
      />
      <div class="end">
        <v-btn variant="text" @click="editing = false">{{ $t('common.cancel') }}</v-btn>
        <v-btn v-if="places.declared" :disabled="busy" @click="save([])">{{ $t('traffic.removeDeclaration') }}</v-btn>
        <v-btn type="submit" variant="flat" :loading="busy" :disabled="chosen.length === 0">{{
          $t('traffic.declareOutsideInterfaces')
        }}</v-btn>
      </div>
    </form>
  </section>
</template>

<style scoped>
.outside {
  padding: 10px 16px 12px;
  margin-bottom: 12px;
  display: grid;
  gap: 4px;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 10px;
}
h2 {
  font-size: 15px;
}
code {
  font-family: var(--mono);
  font-size: 12.5px;
  margin-right: 14px;
  display: inline-block;
  white-space: nowrap;
}
form {
  display: grid;
  gap: 10px;
}
.end {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
}
</style>
