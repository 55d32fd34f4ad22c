// Writes docs/formats/device-model.md from the schema of the device model: node --import tsx
// docs/formats/device-model.mjs
import { writeFileSync } from 'node:fs'
import { z } from 'zod'
import { deviceModelSchema } from '@jurybox/core/model'

/** What a name alone does not tell. */
export const MEANINGS = {
  dialect: 'the dialect that the configuration was read in',
  listing: '`ordinary`: the listing hides defaults; `full`: it shows them, and what is silent is not there',
  'system.banners.login': 'text without its delimiters',
  'system.version': 'software version as the listing states it',
  'system.ntp.servers[].key': 'number of the authentication key',
  'system.ntp.trustedKeys': 'numbers or ranges (`1 - 3`) as listed',
  'system.logging.timestamps': 'options of the time stamps, as listed',
  'system.snmp.communities[].name': 'the mark of the community, never the community',
  'system.snmp.communities[].isDefault': 'whether it is a name that devices come with',
  'system.aaa.methods[].purpose': 'such as `authentication login`',
  'system.enableSecret': 'secret of the highest privilege',
  'system.lockout.untilUnlocked': 'a person has to unlock the account',
  'system.terminals[].protocols': 'what logs in here; null where not stated',
  'system.terminals[].idleSeconds': 'seconds until an idle session ends; 0 for never',
  'system.services.sourceRouting.enabled': 'forwards packets that choose their own way',
  'system.services.passwordEncryption.enabled': 'passwords are obscured in the listing',
  'interfaces[].addressBy': '`dhcp`, `unnumbered NAME`, `slaac`: how it comes by an address that is not listed',
  'interfaces[].reversePath': '`strict` or `loose` (RFC 3704)',
  'interfaces[].portAuthentication': 'of what is attached (IEEE 802.1X, or by address)',
  'interfaces[].switching.accessVlan': 'also the tag of a sub-interface',
  'interfaces[].filters.in4': 'access list for what comes in, IPv4; likewise the others',
  'interfaces[].encryption': '`macsec …`, `map NAME`',
  'staticRoutes[].discard': 'packets are dropped',
  'bgp[].neighbours[].ttlSecurityHops': 'hops allowed (RFC 5082)',
  'bgp[].neighbours[].families[].maximumPrefixes': 'limit on prefixes taken',
  'routePolicies[].entries[].action': '`permit` or `deny`',
  'accessLists[].entries[].action': '`other`: logs and goes on, or leads to another list',
  'accessLists[].entries[].sources': 'prefixes, or address and wildcard bits where a set is no prefix; none: any',
  'accessLists[].entries[].dscp': 'values (RFC 2474)',
  'accessLists[].entries[].tcpFlags': 'flags that must be set, with `!` must not',
  'accessLists[].entries[].established': 'TCP with ACK or RST set',
  'accessLists[].entries[].inInterface': 'of saved filter rules; `!` before what must not be',
  'accessLists[].entries[].connectionStates': 'states of the connection a packet belongs to; none: any',
  'accessLists[].entries[].leadsTo': 'the list that packets are led to',
  'trafficPolicies[].classes': 'classes that something is done with',
  'accessLists[].entries[].notWeighed': 'words that narrow the entry in a way that is not weighed',
  'accessLists[].defaultAction': 'what becomes of packets that no entry decides; `return`: back to the list that led here',
  'trustPoints[].certificates[].role': 'such as `ca`, `self-signed`',
  'ipsecPeers[].selector': 'access list of what is protected',
}

function typeOf(schema) {
  if (schema instanceof z.ZodNullable) return `${typeOf(schema.unwrap())} or null`
  if (schema instanceof z.ZodArray) return `list of ${typeOf(schema.element)}`
  if (schema instanceof z.ZodEnum) return schema.options.map((one) => `\`${one}\``).join(', ')
  if (schema instanceof z.ZodTuple) return 'from–to'
  if (schema instanceof z.ZodObject) return 'entries'
  return schema instanceof z.ZodBoolean ? 'yes or no' : schema instanceof z.ZodNumber ? 'number' : 'text'
}

const isSecret = (schema) => schema instanceof z.ZodObject && 'fingerprint' in schema.shape

export function rowsOf(schema = deviceModelSchema, path = '') {
  return Object.entries(schema.shape).flatMap(([name, field]) => {
    const at = path === '' ? name : `${path}.${name}`
    const bare = field instanceof z.ZodNullable ? field.unwrap() : field
    if (isSecret(bare)) return [[at, field === bare ? 'secret' : 'secret or null']]
    if (bare instanceof z.ZodObject) return rowsOf(bare, at)
    if (bare instanceof z.ZodArray && bare.element instanceof z.ZodObject) return [[`${at}[]`, 'list'], ...rowsOf(bare.element, `${at}[]`)]
    return [[at, typeOf(field)]]
  })
}

export function documentText() {
  const rows = rowsOf().map(([path, type]) => `| \`${path}\` | ${type} | ${MEANINGS[path] ?? ''} |`)
  return `# The device model

Made from the schemas in \`packages/core/src/model/schema/\` by \`node --import tsx docs/formats/device-model.mjs\`; a test
holds the two together. Names follow OpenConfig and the IETF's YANG modules. \`./jurybox read PATH…\` prints it.

Values are plain. **null** means that no line states it and no default is known. Beside the model stands a table of
**origins** by path, such as \`system.ntp.servers[0].key\`:

\`\`\`
{ "kind": "line", "record": "…", "lines": [{ "from": 12, "to": 12, "columns"?: [5, 17] }] }
{ "kind": "default", "source": "where this default is known from" }
\`\`\`

A value without an origin of its own has that of what it stands in; without any it is absent. Lines that no reader used are
listed as **unread**, with their block.

A **secret** is \`{ kind, strong, fingerprint }\`: \`kind\` says how it is kept (\`clear\`, \`reversible\`, \`md5-crypt\`,
\`sha256-crypt\`, \`sha512-crypt\`, \`scrypt\`, \`pbkdf2\`, \`bcrypt\`, …), \`strong\` whether that withstands someone who has the
listing, and equal secrets have one \`fingerprint\` (HMAC-SHA256 under the engagement's key). The secret itself is not there.

| field | type | |
|---|---|---|
${rows.join('\n')}
`
}

if (process.argv[1]?.endsWith('device-model.mjs')) writeFileSync(new URL('device-model.md', import.meta.url), documentText())
