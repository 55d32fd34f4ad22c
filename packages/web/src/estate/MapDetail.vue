<script setup lang="ts">
import { t } from '../messages/index.ts'
import type { MapDevice, MapEnd, MapLink } from '@jurybox/api/estate'
import { computed } from 'vue'
import AgeText from '../shared/AgeText.vue'
import VerdictBar from '../shared/VerdictBar.vue'
import { useEngagement } from '../stores/engagement.ts'
import ApprovedMark from './ApprovedMark.vue'
import { STANDINGS, type Overlay } from './map-graph.ts'

/** One device of the map: what is told of it, and each of its links from both ends. */
const props = defineProps<{ name: string; device: MapDevice | null; links: readonly MapLink[]; overlay: Overlay }>()
const emit = defineEmits<{ pick: [name: string] }>()
const engagement = useEngagement()
const own = computed(() =>
  props.links.flatMap((link): { link: MapLink; near: MapEnd; far: MapEnd }[] =>
    link.a.device === props.name
      ? [{ link, near: link.a, far: link.b }]
      : link.b.device === props.name
        ? [{ link, near: link.b, far: link.a }]
        : [],
  ),
)
/** Of a device that is down: who saw it last, and at which port each of them faces it. */
const facing = computed(() => own.value.filter(({ far }) => far.inEstate && far.port !== null))
const CHANGED = {
  same: t('estate.unchangedSinceTheSnapshotBefore'),
  changed: t('estate.changedSinceTheSnapshotBefore'),
  new: t('estate.newSinceTheSnapshotBefore'),
}
const ageOf = computed(() => props.device?.takenAt ?? null)
const toLine = (end: MapEnd, id: number | undefined): string =>
  `/e/${engagement.id}/estate/${id ?? 0}?tab=state&record=${end.at?.record ?? 0}&line=${end.at?.from ?? 0}`
</script>

<template>
  <aside class="panel detail">
    <template v-if="name === ''">
      <h2>{{ $t('estate.noDeviceSelected') }}</h2>
      <p class="quiet">
        {{ $t('estate.clickADeviceOrPress') }}
      </p>
    </template>
    <template v-else>
      <h2>{{ name }}</h2>
      <p v-if="!device" class="quiet">{{ $t('estate.notInTheInventoryKnown') }}</p>
      <template v-else>
        <p class="quiet">{{ [device.role, device.site].filter(Boolean).join(' at ') }}</p>
        <p v-if="device.down" class="down">
          <b>{{ $t('estate.notReachedInTheLast') }}</b> {{ device.down }}
        </p>
        <dl>
          <dt>{{ $t('common.verdicts') }}</dt>
          <dd><VerdictBar :counts="device.counts" /></dd>
          <dt>{{ $t('common.evidence') }}</dt>
          <dd><AgeText :at="ageOf" /></dd>
          <dt>{{ $t('estate.software') }}</dt>
          <dd><ApprovedMark :standing="device.approved" :why="device.why" /></dd>
          <dt>{{ $t('estate.configuration') }}</dt>
          <dd>{{ CHANGED[device.changed] }}</dd>
        </dl>
        <v-btn size="small" :to="`/e/${engagement.id}/estate/${device.id}`">{{ $t('estate.openTheDevice') }}</v-btn>
      </template>
      <h3>{{ device?.down ? $t('estate.lastKnownNeighbours') : $t('estate.linksTitle') }} ({{ own.length }})</h3>
      <p v-if="own.length === 0" class="quiet">{{ $t('estate.noNeighbourTableAndNo') }}</p>
      <ul class="links">
        <li v-for="({ link, near, far }, i) in own" :key="i">
          <div class="pair">
            <span class="mono">{{ near.port ?? '?' }}</span><span aria-hidden="true">–</span
            ><span class="sr">{{ $t('estate.to') }}</span
            ><button type="button" class="as-link" @click="emit('pick', far.device)">{{ far.device }}</button
            ><span class="mono">{{ far.port ?? '?' }}</span>
          </div>
          <div class="quiet">
            {{ STANDINGS[link.standing].title
            }}<template v-if="near.oper === 'down'">{{ $t('estate.thisInterfaceIsDown') }}</template
            ><template v-if="far.oper === 'down'">{{ $t('estate.theOtherInterfaceIsDown') }}</template>
          </div>
          <div v-if="link.note && link.standing !== 'untold'" class="quiet note">{{ link.note }}</div>
          <router-link v-if="near.at && device" :to="toLine(near, device.id)">{{
            link.standing === 'subnet'
              ? $t('estate.lineOfItsConfiguration', { from: near.at.from })
              : $t('estate.lineOfItsNeighbourTable', { from: near.at.from })
          }}</router-link>
        </li>
      </ul>
      <template v-if="device?.down">
        <h3>{{ $t('estate.interfacesTowardsIt', { facing: facing.length }) }}</h3>
        <ul class="links">
          <li v-for="({ far }, i) in facing" :key="i">
            <span class="mono">{{ far.device }} {{ far.port }}</span
            ><span class="quiet"
              >{{ ' ' }}{{ far.oper === null ? $t('estate.stateNotCaptured') : `was ${far.oper}` }}</span
            >
          </li>
        </ul>
      </template>
    </template>
  </aside>
</template>

<style scoped>
.detail {
  padding: 12px 14px;
  overflow: auto;
  display: grid;
  gap: 8px;
  align-content: start;
  grid-template-columns: minmax(0, 1fr);
  justify-items: start;
}
dl {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 4px 12px;
  margin: 0;
  width: 100%;
}
dt {
  color: rgb(var(--v-theme-quiet));
}
dd {
  margin: 0;
}
h3 {
  margin-top: 6px;
}
.links {
  list-style: none;
  margin: 0;
  padding: 0;
  width: 100%;
}
.links li {
  border-top: var(--hair);
  padding: 5px 0;
}
.pair {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 7px;
  align-items: center;
}
.note {
  overflow-wrap: anywhere;
  font-size: 12.5px;
}
.down {
  border-left: 3px solid rgb(var(--v-theme-fail));
  padding-left: 10px;
  overflow-wrap: anywhere;
}
</style>
