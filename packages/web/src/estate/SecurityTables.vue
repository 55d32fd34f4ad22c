<script setup lang="ts">
import { t } from '../messages/index.ts'
import type { ModelView } from '@jurybox/api/devices'
import { computed } from 'vue'
import { secretText } from './model-rows.ts'
import SaidValue from './SaidValue.vue'
import { dayOf } from '../shared/time.ts'

/** Zones and their policies, address translation, tunnels and certificates; every value opens its lines. */
const props = defineProps<{ view: ModelView }>()
const model = computed(() => props.view.model)
const words = (...parts: (string | null | undefined | false)[]): string => parts.filter(Boolean).join(', ')
const key = (kind: string | null, bits: number | null): string | null =>
  kind === null ? null : bits === null ? kind : `${kind} ${bits} bits`
/** A certificate's validity, as days that an auditor reads at a glance. */
const until = (notAfter: string | null): string =>
  notAfter === null ? '' : t('estate.validUntil', { notAfter: dayOf(notAfter) })
const nothing = computed(
  () =>
    model.value.zones.length +
      model.value.zonePolicies.length +
      model.value.nat.length +
      model.value.ikeProposals.length +
      model.value.espProposals.length +
      model.value.ipsecPolicies.length +
      model.value.ipsecPeers.length +
      model.value.trustPoints.length +
      model.value.macsec.length ===
    0,
)
</script>

<template>
  <p v-if="nothing" class="quiet empty">
    {{ $t('estate.theConfigurationHasNoZones') }}
  </p>
  <table v-else class="rows">
    <thead>
      <tr>
        <th scope="col">{{ $t('common.type') }}</th>
        <th scope="col">{{ $t('common.name') }}</th>
        <th scope="col">{{ $t('estate.content') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(zone, i) in model.zones" :key="`z${i}`">
        <td>{{ $t('estate.zone') }}</td>
        <td><SaidValue :path="`zones[${i}]`" :text="zone.name" /></td>
        <td class="mono">{{ zone.interfaces.join(' ') }}</td>
      </tr>
      <tr v-for="(policy, i) in model.zonePolicies" :key="`p${i}`">
        <td>{{ $t('estate.policy') }}</td>
        <td>
          <SaidValue :path="`zonePolicies[${i}]`" :text="policy.name" />
          <div class="quiet">{{ $t('estate.to3', { from: policy.from, to: policy.to }) }}</div>
        </td>
        <td>
          <SaidValue :path="`zonePolicies[${i}].action`" :text="policy.action" />
          <span class="quiet">{{
            words(
              policy.sources.length > 0 && `from ${policy.sources.join(' ')}`,
              policy.destinations.length > 0 && `to ${policy.destinations.join(' ')}`,
              policy.applications.length > 0 && `for ${policy.applications.join(' ')}`,
              policy.logged ? 'logged' : $t('estate.notLogged'),
            )
          }}</span>
        </td>
      </tr>
      <tr v-for="(rule, i) in model.nat" :key="`n${i}`">
        <td>{{ $t('estate.nat') }}</td>
        <td><SaidValue :path="`nat[${i}]`" :text="rule.kind" /></td>
        <td class="mono">{{ rule.statement }}</td>
      </tr>
      <tr v-for="(proposal, i) in model.ikeProposals" :key="`i${i}`">
        <td>{{ $t('estate.ikeVersion', { version: proposal.version }) }}</td>
        <td><SaidValue :path="`ikeProposals[${i}]`" :text="proposal.name" /></td>
        <td>
          {{
            words(
              proposal.encryption.join(' '),
              proposal.integrity.join(' '),
              proposal.groups.length > 0 && `group ${proposal.groups.join(' ')}`,
              proposal.authentication,
              proposal.lifetimeSeconds !== null && `${proposal.lifetimeSeconds} s`,
            )
          }}
        </td>
      </tr>
      <tr v-for="(proposal, i) in model.espProposals" :key="`e${i}`">
        <td>IPsec</td>
        <td><SaidValue :path="`espProposals[${i}]`" :text="proposal.name" /></td>
        <td>
          {{
            words(
              proposal.algorithms.join(' '),
              proposal.mode,
              proposal.lifetimeSeconds !== null && `${proposal.lifetimeSeconds} s`,
            )
          }}
        </td>
      </tr>
      <tr v-for="(policy, i) in model.ipsecPolicies" :key="`p${i}`">
        <td>{{ $t('estate.iPsecPolicy') }}</td>
        <td><SaidValue :path="`ipsecPolicies[${i}]`" :text="policy.name" /></td>
        <td>
          {{
            words(
              policy.proposals.join(' '),
              policy.pfs && $t('estate.pfs', { pfs: policy.pfs }),
              policy.lifetimeSeconds !== null && `${policy.lifetimeSeconds} s`,
            )
          }}
        </td>
      </tr>
      <tr v-for="(peer, i) in model.ipsecPeers" :key="`s${i}`">
        <td>{{ $t('estate.peer') }}</td>
        <td><SaidValue :path="`ipsecPeers[${i}]`" :text="peer.name" /></td>
        <td>
          {{
            words(
              peer.address,
              peer.proposal,
              peer.selector && $t('estate.trafficOf', { selector: peer.selector }),
              peer.secret && secretText(peer.secret),
            )
          }}
        </td>
      </tr>
      <template v-for="(point, i) in model.trustPoints" :key="`t${i}`">
        <tr v-for="(certificate, c) in point.certificates" :key="c">
          <td>{{ $t('estate.certificate') }}</td>
          <td>
            <SaidValue :path="`trustPoints[${i}].certificates[${c}]`" :text="point.name" />
            <div class="quiet">{{ certificate.role }}</div>
          </td>
          <td>
            {{ certificate.subject ?? $t('estate.notDecoded') }}
            <div class="quiet">
              {{
                words(key(certificate.keyKind, certificate.keyBits), certificate.signature, until(certificate.notAfter))
              }}
            </div>
          </td>
        </tr>
        <tr v-if="point.certificates.length === 0">
          <td>{{ $t('estate.trustPoint') }}</td>
          <td><SaidValue :path="`trustPoints[${i}]`" :text="point.name" /></td>
          <td class="quiet">
            {{ words(point.subject, point.revocationCheck && `revocation: ${point.revocationCheck}`) }}
          </td>
        </tr>
      </template>
      <tr v-for="(policy, i) in model.macsec" :key="`m${i}`">
        <td>MACsec</td>
        <td><SaidValue :path="`macsec[${i}]`" :text="policy.name" /></td>
        <td>{{ policy.cipher }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.empty {
  padding: 10px 14px;
}
</style>
