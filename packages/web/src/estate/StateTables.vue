<script setup lang="ts">
import type { StateView } from '@jurybox/api/devices'
import { toRef } from 'vue'
import AgeText from '../shared/AgeText.vue'
import { useExhibit } from '../stores/exhibit.ts'
import { provideOrigins } from './model-context.ts'
import SaidValue from './SaidValue.vue'

/** What the device was doing when its outputs were captured; every value opens its lines. */
const props = defineProps<{ view: StateView }>()
provideOrigins(toRef(props, 'view'))
const exhibit = useExhibit()

function show(record: number, lines: readonly number[]): void {
  void exhibit.reveal(
    record,
    lines.map((line) => ({ from: line, to: line, absent: false })),
  )
}
const hop = (one: { address: string | null; interface: string | null; discard: boolean }): string =>
  one.discard ? 'discarded' : [one.address, one.interface].filter(Boolean).join(' ')
const words = (...parts: (string | number | null | false)[]): string =>
  parts.filter((part) => part !== null && part !== false && part !== '').join(', ')
</script>

<template>
  <div class="state">
    <section>
      <h3>{{ $t('estate.outputs') }}</h3>
      <table class="rows">
        <tbody>
          <tr v-for="record in view.records" :key="record.record">
            <td>
              <button type="button" class="as-link" @click="show(record.record, [])">{{ record.kind }}</button>
            </td>
            <td>
              {{ record.form ?? '' }}<span v-if="record.reason" class="quiet">{{ ' ' }}{{ record.reason }}</span>
            </td>
            <td>
              <button
                v-if="record.unread.length > 0"
                type="button"
                class="as-link"
                @click="show(record.record, record.unread)"
              >
                {{ $t('estate.linesUnparsed', { unread: record.unread.length }) }}</button><span v-else class="quiet">{{
                record.form === null ? $t('estate.notParsed') : $t('estate.allParsed')
              }}</span>
            </td>
            <td><AgeText :at="record.takenAt" /></td>
          </tr>
        </tbody>
      </table>
    </section>
    <section v-if="view.state.interfaces.length > 0">
      <h3>{{ $t('estate.interfaces2') }}</h3>
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">{{ $t('estate.interface') }}</th>
            <th scope="col">{{ $t('estate.setTo') }}</th>
            <th scope="col">{{ $t('estate.state2') }}</th>
            <th scope="col">{{ $t('estate.addresses') }}</th>
            <th scope="col" class="num">{{ $t('estate.errorsIn') }}</th>
            <th scope="col" class="num">{{ $t('estate.out') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(port, i) in view.state.interfaces" :key="port.name">
            <td class="name"><SaidValue :path="`interfaces[${i}]`" :text="port.name" /></td>
            <td><SaidValue :path="`interfaces[${i}].admin`" :text="port.admin" /></td>
            <td><SaidValue :path="`interfaces[${i}].oper`" :text="port.oper" /></td>
            <td class="mono">{{ port.addresses.join(' ') }}</td>
            <td class="num">
              <SaidValue
                v-if="port.counters.inErrors !== null"
                :path="`interfaces[${i}].counters.inErrors`"
                :text="String(port.counters.inErrors)"
              />
            </td>
            <td class="num">
              <SaidValue
                v-if="port.counters.outErrors !== null"
                :path="`interfaces[${i}].counters.outErrors`"
                :text="String(port.counters.outErrors)"
              />
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <section v-if="view.state.routes.length > 0">
      <h3>{{ $t('estate.routes2') }}</h3>
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">{{ $t('estate.prefix') }}</th>
            <th scope="col">{{ $t('estate.nextHops') }}</th>
            <th scope="col">{{ $t('common.from') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(route, i) in view.state.routes" :key="i">
            <td><SaidValue mono :path="`routes[${i}]`" :text="route.prefix" /></td>
            <td class="mono">
              <div v-for="(one, n) in route.nextHops" :key="n">{{ hop(one) }}</div>
            </td>
            <td class="quiet">
              {{
                words(
                  route.protocol,
                  route.vrf && $t('estate.vrf', { vrf: route.vrf }),
                  route.distance !== null && `distance ${route.distance}`,
                  route.metric !== null && `metric ${route.metric}`,
                  !route.selected && $t('estate.notInUse'),
                )
              }}
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <section
      v-if="view.state.neighbours.length + view.state.adjacencies.length + view.state.ntp.associations.length > 0"
    >
      <h3>{{ $t('estate.neighboursAndTime') }}</h3>
      <table class="rows">
        <tbody>
          <tr v-for="(one, i) in view.state.neighbours" :key="`n${i}`">
            <td>{{ $t('estate.on', { interface: one.interface }) }}</td>
            <td><SaidValue :path="`neighbours[${i}]`" :text="one.system" /></td>
            <td class="quiet">{{ words(one.port && $t('estate.port', { port: one.port }), one.capability) }}</td>
          </tr>
          <tr v-for="(one, i) in view.state.adjacencies" :key="`a${i}`">
            <td>{{ one.protocol.toUpperCase() }}</td>
            <td><SaidValue :path="`adjacencies[${i}]`" :text="one.neighbour" /></td>
            <td class="quiet">
              {{
                words(
                  one.state,
                  one.remoteAs && $t('estate.as', { remoteAs: one.remoteAs }),
                  one.prefixes !== null && `${one.prefixes} prefixes`,
                )
              }}
            </td>
          </tr>
          <tr v-for="(one, i) in view.state.ntp.associations" :key="`t${i}`">
            <td>{{ $t('estate.timeServer') }}</td>
            <td><SaidValue :path="`ntp.associations[${i}]`" :text="one.address" /></td>
            <td class="quiet">
              {{
                words(
                  one.selected ? $t('estate.selected') : $t('common.notSelected'),
                  one.reach === 0 && $t('estate.notReached'),
                  one.stratum !== null && `stratum ${one.stratum}`,
                )
              }}
            </td>
          </tr>
          <tr v-if="view.state.ntp.synchronised !== null">
            <td>{{ $t('estate.clock') }}</td>
            <td>
              <SaidValue
                path="ntp.synchronised"
                :text="view.state.ntp.synchronised ? 'synchronised' : $t('estate.notSynchronised')"
              />
            </td>
            <td />
          </tr>
        </tbody>
      </table>
    </section>
    <section v-if="view.state.securityAssociations.length + view.state.secureChannels.length > 0">
      <h3>{{ $t('common.encryption') }}</h3>
      <table class="rows">
        <tbody>
          <tr v-for="(one, i) in view.state.securityAssociations" :key="`s${i}`">
            <td>{{ $t('estate.iPsec', { direction: one.direction ?? '' }) }}</td>
            <td><SaidValue mono :path="`securityAssociations[${i}]`" :text="one.peer" /></td>
            <td class="quiet">
              {{
                words(
                  one.algorithm,
                  one.interface,
                  $t('estate.spi', { spi: one.spi }),
                  one.lifetimeSeconds !== null && $t('estate.sLeft', { lifetimeSeconds: one.lifetimeSeconds }),
                )
              }}
            </td>
          </tr>
          <tr v-for="(one, i) in view.state.secureChannels" :key="`c${i}`">
            <td>{{ $t('estate.mACsec', { direction: one.direction ?? '' }) }}</td>
            <td><SaidValue :path="`secureChannels[${i}]`" :text="one.interface" /></td>
            <td class="quiet">
              {{
                words(
                  one.cipher,
                  one.encrypts === false && $t('estate.noEncryption'),
                  one.sci && $t('estate.sci', { sci: one.sci }),
                )
              }}
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <section v-if="view.state.alarms.length + view.state.parts.length > 0">
      <h3>{{ $t('estate.alarmsAndComponents') }}</h3>
      <table class="rows">
        <tbody>
          <tr v-for="(one, i) in view.state.alarms" :key="`l${i}`">
            <td>{{ $t('estate.alarm') }}</td>
            <td><SaidValue :path="`alarms[${i}]`" :text="one.text" /></td>
            <td class="quiet">{{ words(one.severity, one.since && `since ${one.since}`) }}</td>
          </tr>
          <tr v-for="(one, i) in view.state.parts" :key="`p${i}`">
            <td>{{ one.kind }}</td>
            <td><SaidValue :path="`parts[${i}]`" :text="one.name" /></td>
            <td :class="{ quiet: one.ok }">{{ words(one.ok ? $t('estate.ok') : $t('estate.fault'), one.reading) }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    <section v-if="view.state.policyRules.length > 0">
      <h3>{{ $t('estate.policyRules') }}</h3>
      <table class="rows">
        <tbody>
          <tr v-for="(one, i) in view.state.policyRules" :key="`r${i}`">
            <td class="num">{{ one.priority }}</td>
            <td>
              <SaidValue
                :path="`policyRules[${i}]`"
                :text="one.source === null ? $t('estate.fromAnywhere') : `from ${one.source}`"
              />
            </td>
            <td class="quiet">
              {{
                words(
                  one.destination && `to ${one.destination}`,
                  one.interface && $t('estate.from2', { interface: one.interface }),
                  `table ${one.table}`,
                )
              }}
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <section v-if="view.state.addresses.length + view.state.macs.length > 0">
      <h3>{{ $t('estate.arpNdAndMacTables') }}</h3>
      <table class="rows">
        <tbody>
          <tr v-for="(one, i) in view.state.addresses" :key="`h${i}`">
            <td><SaidValue mono :path="`addresses[${i}]`" :text="one.address" /></td>
            <td class="mono">{{ one.mac ?? $t('estate.incomplete2') }}</td>
            <td class="quiet">{{ words(one.interface, one.state) }}</td>
          </tr>
          <tr v-for="(one, i) in view.state.macs" :key="`m${i}`">
            <td class="quiet">{{ $t('estate.vlan', { vlan: one.vlan ?? 'all' }) }}</td>
            <td><SaidValue mono :path="`macs[${i}]`" :text="one.mac" /></td>
            <td class="quiet">{{ words(one.interface, one.kind) }}</td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.state section {
  border-bottom: var(--hair);
  padding: 8px 0 4px;
}
.state section:last-child {
  border-bottom: 0;
}
.state h3 {
  padding: 0 10px 2px;
}
.name {
  white-space: nowrap;
}
</style>
