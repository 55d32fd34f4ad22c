<script setup lang="ts">
import type { ModelView } from '@jurybox/api/devices'
import { computed } from 'vue'
import { rangesText, secretText, systemGroups } from './model-rows.ts'
import SaidValue from './SaidValue.vue'
import { useExhibit } from '../stores/exhibit.ts'

/** The device model by parts; every value opens its lines. */
const props = defineProps<{ part: string; view: ModelView }>()
const exhibit = useExhibit()
const model = computed(() => props.view.model)
const groups = computed(() =>
  props.part === 'system' ? systemGroups(model.value).filter(({ rows }) => rows.length > 0) : [],
)

function showLine(record: string, line: number): void {
  void exhibit.reveal(Number(record), [{ from: line, to: line, absent: false }])
}
const share = computed(() => ((100 * props.view.unread.length) / Math.max(1, props.view.lines)).toFixed(1))
</script>

<template>
  <div v-if="part === 'system'" class="groups">
    <section v-for="group in groups" :key="group.title">
      <h3>{{ group.title }}</h3>
      <dl>
        <div v-for="row in group.rows" :key="row.path + row.label">
          <dt class="quiet">{{ row.label }}</dt>
          <dd><SaidValue :path="row.path" :text="row.text" /></dd>
        </div>
      </dl>
    </section>
  </div>
  <table v-else-if="part === 'interfaces'" class="rows">
    <thead>
      <tr>
        <th scope="col">{{ $t('estate.interface') }}</th>
        <th scope="col">{{ $t('estate.description') }}</th>
        <th scope="col">{{ $t('estate.addresses') }}</th>
        <th scope="col">VLAN</th>
        <th scope="col">{{ $t('common.filters') }}</th>
        <th scope="col">{{ $t('estate.state2') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(port, i) in model.interfaces" :key="port.name">
        <td class="name">
          <SaidValue :path="`interfaces[${i}]`" :text="port.name" />
          <div v-if="port.vrf" class="quiet">VRF <SaidValue :path="`interfaces[${i}].vrf`" :text="port.vrf" /></div>
        </td>
        <td><SaidValue v-if="port.description" :path="`interfaces[${i}].description`" :text="port.description" /></td>
        <td>
          <div v-for="(address, a) in port.addresses" :key="a">
            <SaidValue
              mono
              :path="`interfaces[${i}].addresses[${a}]`"
              :text="`${address.address}/${address.prefixLength}`"
            />
          </div>
          <SaidValue v-if="port.addressBy" :path="`interfaces[${i}].addressBy`" :text="port.addressBy" />
        </td>
        <td>
          <SaidValue
            v-if="port.switching.mode === 'trunk'"
            :path="`interfaces[${i}].switching.allowedVlans`"
            :text="`trunk ${port.switching.allowedVlans?.replaceAll(',', ', ') ?? 'all'}`"
          /><SaidValue
            v-else-if="port.switching.accessVlan !== null"
            :path="`interfaces[${i}].switching.accessVlan`"
            :text="String(port.switching.accessVlan)"
          />
        </td>
        <td>
          <template
            v-for="(label, field) in { in4: 'in', out4: 'out', in6: $t('estate.iPv6In'), out6: $t('estate.iPv6Out') }"
            :key="field"
            ><div v-if="port.filters[field]">
              <span class="quiet">{{ label }}</span>
              <SaidValue :path="`interfaces[${i}].filters.${field}`" :text="port.filters[field]" /></div
          ></template>
        </td>
        <td class="state">
          <SaidValue
            :path="`interfaces[${i}].enabled`"
            :text="port.enabled === null ? null : port.enabled ? 'on' : 'off'"
          />
        </td>
      </tr>
      <tr v-if="model.interfaces.length === 0">
        <td colspan="6" class="quiet">{{ $t('estate.theConfigurationHasNoInterfaces') }}</td>
      </tr>
    </tbody>
  </table>
  <table v-else-if="part === 'users'" class="rows">
    <thead>
      <tr>
        <th scope="col">{{ $t('estate.userOrTerminal') }}</th>
        <th scope="col">{{ $t('common.role') }}</th>
        <th scope="col">{{ $t('estate.secret') }}</th>
        <th scope="col">{{ $t('estate.idleTime') }}</th>
        <th scope="col">{{ $t('estate.access2') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(user, i) in model.system.users" :key="`u${user.name}`">
        <td>{{ $t('estate.user') }} <SaidValue :path="`system.users[${i}]`" :text="user.name" /></td>
        <td>
          <SaidValue
            v-if="user.role ?? user.privilege"
            :path="`system.users[${i}].${user.role ? 'role' : 'privilege'}`"
            :text="user.role ?? `privilege ${user.privilege ?? ''}`"
          />
        </td>
        <td>
          <SaidValue
            :path="`system.users[${i}].secret`"
            :text="user.secret ? secretText(user.secret) : user.keys > 0 ? `${user.keys} keys` : null"
          />
        </td>
        <td />
        <td />
      </tr>
      <tr v-for="(terminal, i) in model.system.terminals" :key="`t${terminal.name}`">
        <td>{{ $t('estate.terminal') }} <SaidValue :path="`system.terminals[${i}]`" :text="terminal.name" /></td>
        <td class="quiet">{{ terminal.kind }}</td>
        <td>
          <SaidValue
            v-if="terminal.secret"
            :path="`system.terminals[${i}].secret`"
            :text="secretText(terminal.secret)"
          />
        </td>
        <td>
          <SaidValue
            :path="`system.terminals[${i}].idleSeconds`"
            :text="
              terminal.idleSeconds === null
                ? null
                : terminal.idleSeconds === 0
                  ? $t('estate.noTimeout')
                  : `${terminal.idleSeconds} s`
            "
          />
        </td>
        <td>
          <SaidValue :path="`system.terminals[${i}].protocols`" :text="terminal.protocols?.join(' ') ?? null" />
          <div v-if="terminal.accessList4" class="quiet">
            {{ $t('estate.from') }}
            <SaidValue :path="`system.terminals[${i}].accessList4`" :text="terminal.accessList4" />
          </div>
        </td>
      </tr>
      <tr v-if="model.system.users.length + model.system.terminals.length === 0">
        <td colspan="5" class="quiet">{{ $t('estate.theConfigurationHasNoUsers') }}</td>
      </tr>
    </tbody>
  </table>
  <div v-else-if="part === 'lists'" class="lists">
    <details v-for="(list, i) in model.accessLists" :key="list.family + list.name">
      <summary>
        <strong>{{ list.name }}</strong>{{ ' ' }}
        <span class="quiet">{{
          $t('estate.entriesDefault', {
            family: list.family,
            entries: list.entries.length,
            list: list.defaultAction === 'return' ? 'return' : list.defaultAction,
          })
        }}</span>
      </summary>
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">{{ $t('estate.entry') }}</th>
            <th scope="col">{{ $t('common.from') }}</th>
            <th scope="col">{{ $t('estate.to2') }}</th>
            <th scope="col">{{ $t('estate.protocol') }}</th>
            <th scope="col">{{ $t('estate.ports') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(entry, e) in list.entries" :key="e">
            <td class="name">
              <SaidValue
                :path="`accessLists[${i}].entries[${e}]`"
                :text="`${entry.sequence ?? e + 1} ${entry.action === 'other' ? $t('estate.continue') : entry.action}`"
              />
              <div v-if="entry.remark" class="quiet">{{ entry.remark }}</div>
              <div v-if="entry.notWeighed.length > 0" class="quiet">
                {{ $t('estate.notEvaluated', { notWeighed: entry.notWeighed.join(', ') }) }}
              </div>
            </td>
            <td class="mono">{{ entry.sources.join(' ') || 'any' }}</td>
            <td class="mono">{{ entry.destinations.join(' ') || 'any' }}</td>
            <td>{{ rangesText(entry.protocols) || 'any' }}</td>
            <td>
              {{
                [
                  rangesText(entry.sourcePorts) && `from ${rangesText(entry.sourcePorts)}`,
                  rangesText(entry.destinationPorts),
                ]
                  .filter(Boolean)
                  .join(' to ') || 'any'
              }}
            </td>
          </tr>
        </tbody>
      </table>
    </details>
    <p v-if="model.accessLists.length === 0" class="quiet empty">{{ $t('estate.theConfigurationHasNoAccess') }}</p>
  </div>
  <table v-else-if="part === 'routes'" class="rows">
    <thead>
      <tr>
        <th scope="col">{{ $t('estate.routing') }}</th>
        <th scope="col">{{ $t('common.type') }}</th>
        <th scope="col">{{ $t('estate.to2') }}</th>
        <th scope="col">{{ $t('estate.details') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(route, i) in model.staticRoutes" :key="`r${i}`">
        <td>{{ $t('estate.staticRoute') }}</td>
        <td><SaidValue mono :path="`staticRoutes[${i}]`" :text="route.prefix" /></td>
        <td class="mono">
          {{ route.discard ? 'discarded' : [route.interface, route.nextHop].filter(Boolean).join(' ') }}
        </td>
        <td class="quiet">
          {{
            [
              route.vrf && $t('estate.vrf', { vrf: route.vrf }),
              route.distance !== null && `distance ${route.distance}`,
              route.name,
            ]
              .filter(Boolean)
              .join(', ')
          }}
        </td>
      </tr>
      <tr v-for="(instance, i) in model.ospf" :key="`o${i}`">
        <td>{{ $t('estate.ospf', { process: instance.process }) }}</td>
        <td><SaidValue mono :path="`ospf[${i}].routerId`" :text="instance.routerId" /></td>
        <td class="mono">
          <div v-for="(network, n) in instance.networks" :key="n">
            <SaidValue mono :path="`ospf[${i}].networks[${n}]`" :text="`${network.prefix} area ${network.area}`" />
          </div>
        </td>
        <td class="quiet">
          {{ instance.passiveByDefault ? $t('estate.passiveByDefault') : '' }}
          {{
            instance.areas
              .map((area) => `area ${area.id}${area.authentication ? ` ${area.authentication}` : ''}`)
              .join(', ')
          }}
        </td>
      </tr>
      <template v-for="(instance, i) in model.bgp" :key="`b${i}`">
        <tr v-for="(neighbour, n) in instance.neighbours" :key="neighbour.address">
          <td>{{ $t('estate.bgp', { as: instance.as }) }}</td>
          <td><SaidValue mono :path="`bgp[${i}].neighbours[${n}]`" :text="neighbour.address" /></td>
          <td>AS <SaidValue :path="`bgp[${i}].neighbours[${n}].remoteAs`" :text="neighbour.remoteAs" /></td>
          <td class="quiet">
            {{
              [
                neighbour.description,
                neighbour.secret ? `${neighbour.secret.kind} ${neighbour.secret.fingerprint}` : $t('estate.noPassword'),
                neighbour.ttlSecurityHops !== null && $t('estate.ttl', { ttlSecurityHops: neighbour.ttlSecurityHops }),
              ]
                .filter(Boolean)
                .join(', ')
            }}
          </td>
        </tr>
      </template>
      <tr v-if="model.staticRoutes.length + model.ospf.length + model.bgp.length === 0">
        <td colspan="4" class="quiet">{{ $t('estate.theConfigurationHasNoStatic') }}</td>
      </tr>
    </tbody>
  </table>
  <div v-else-if="part === 'unread'">
    <p class="quiet empty">
      {{ $t('estate.ofLinesAreUnparsedThe', { unread: view.unread.length, lines: view.lines, share }) }}
    </p>
    <table class="rows">
      <thead>
        <tr>
          <th scope="col" class="num">{{ $t('estate.line2') }}</th>
          <th scope="col">{{ $t('estate.block') }}</th>
          <th scope="col">{{ $t('estate.text2') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="line in view.unread" :key="`${line.record}:${line.line}`">
          <td class="num">
            <button type="button" class="as-link" @click="showLine(line.record, line.line)">{{ line.line }}</button>
          </td>
          <td class="mono quiet">{{ line.block ?? '' }}</td>
          <td class="mono">{{ line.text }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.groups {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(270px, 1fr));
  gap: 14px 28px;
  padding: 12px 14px;
}
.groups h3 {
  margin-bottom: 4px;
  border-bottom: var(--hair);
  padding-bottom: 2px;
}
dl {
  margin: 0;
}
dl > div {
  display: grid;
  grid-template-columns: minmax(104px, 38%) 1fr;
  gap: 8px;
  padding: 1px 0;
}
dt {
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
dd {
  margin: 0;
  min-width: 0;
  overflow-wrap: anywhere;
}
.name {
  white-space: nowrap;
}
.state {
  white-space: nowrap;
}
.lists details {
  border-bottom: var(--hair);
}
.lists summary {
  padding: 7px 12px;
  cursor: pointer;
}
.empty {
  padding: 10px 14px;
}
</style>
