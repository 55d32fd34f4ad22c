<script setup lang="ts">
import type { TraceView } from '@jurybox/api/traffic'
import FateMark from './FateMark.vue'

/**
 * A path as a row of devices: a double line where a layer protects the link, a dashed one where packets are in the
 * clear.
 */
defineProps<{ path: TraceView['paths'][number] }>()
</script>

<template>
  <ol class="strip" :aria-label="$t('traffic.path', { fate: path.fate })">
    <li v-for="(hop, i) in path.hops" :key="i">
      <span class="hop"
        ><b>{{ hop.device }}</b
        ><span v-if="hop.in || hop.out" class="quiet ports"
          >{{ hop.in ?? 'itself' }} → {{ hop.out ?? 'itself' }}</span
        ></span
      >
      <span
        v-if="i < path.hops.length - 1"
        class="link"
        :class="{ shielded: hop.layers !== undefined }"
        :title="hop.layers?.join('; ') ?? $t('traffic.unprotected')"
        ><span class="sr">{{ hop.layers?.join('; ') ?? $t('traffic.unprotected') }}</span></span
      >
      <FateMark v-else :fate="path.fate" class="end" />
    </li>
  </ol>
</template>

<style scoped>
.strip {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 0;
  padding: 0;
  margin: 4px 0 8px;
  align-items: center;
}
li {
  display: inline-flex;
  align-items: center;
}
.hop {
  display: inline-grid;
  border: var(--hair);
  border-radius: 3px;
  padding: 3px 9px;
  background: rgb(var(--v-theme-background));
}
.ports {
  font-size: 12px;
  overflow-wrap: anywhere;
}
.link {
  width: 34px;
  height: 6px;
  border-top: 2px dashed rgb(var(--v-theme-quiet));
  margin: 6px 2px 0;
}
.shielded {
  border-top: 2px solid rgb(var(--v-theme-pass));
  border-bottom: 2px solid rgb(var(--v-theme-pass));
  margin-top: 0;
}
.end {
  margin-left: 10px;
}
</style>
