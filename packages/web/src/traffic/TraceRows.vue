<script setup lang="ts">
import type { TraceView } from '@jurybox/api/traffic'
import LineLinks from './LineLinks.vue'
import PathStrip from './PathStrip.vue'

/** One packet on its paths: a row a hop, under it a row a decision, each with its lines. */
defineProps<{ trace: TraceView }>()
</script>

<template>
  <section v-for="(path, i) in trace.paths" :key="i" class="path" :aria-label="$t('traffic.path2', { i: i + 1 })">
    <p v-if="trace.paths.length > 1" class="quiet">
      {{ $t('traffic.pathOf', { i: i + 1, paths: trace.paths.length })
      }}<template v-if="!trace.whole">{{ ' ' }}{{ $t('traffic.orMore') }}</template>
    </p>
    <PathStrip :path="path" />
    <table class="rows">
      <thead>
        <tr>
          <th scope="col">{{ $t('traffic.hop') }}</th>
          <th scope="col">{{ $t('traffic.decision') }}</th>
          <th scope="col">{{ $t('common.result') }}</th>
          <th scope="col">{{ $t('common.lines') }}</th>
        </tr>
      </thead>
      <tbody>
        <template v-for="(hop, h) in path.hops" :key="h">
          <tr v-for="(decision, d) in hop.decisions" :key="`${h} ${d}`">
            <td>
              <b v-if="d === 0">{{ hop.device }}</b>
            </td>
            <td>{{ decision.stage }}</td>
            <td class="result">{{ decision.result }}</td>
            <td><LineLinks :exhibits="decision.exhibits" /></td>
          </tr>
        </template>
        <tr>
          <td>
            <b>{{ path.device }}</b>
          </td>
          <td>{{ $t('traffic.end') }}</td>
          <td class="result" colspan="2">{{ path.fate }}: {{ path.reason.words }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.path + .path {
  margin-top: 18px;
  padding-top: 12px;
  border-top: var(--hair);
}
.result {
  overflow-wrap: anywhere;
}
td {
  vertical-align: top;
}
</style>
