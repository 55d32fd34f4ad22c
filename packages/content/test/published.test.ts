import { expect } from 'chai'
import { tryExamples } from '@jurybox/core/audit'
import type { Value } from '@jurybox/core/benchmarks'
import { compileExpression } from '@jurybox/core/rules'
import { benchmark as hardening } from './hardening.ts'

/** What a rule says of a listing of one device. */
function outcomeOf(id: string, config: string, dialect: 'indented' | 'setlines' = 'indented'): string {
  const rule = hardening.rules.find(({ source }) => source.id === id)
  if (!rule) throw new Error(id)
  const [trial] = tryExamples(hardening, {
    ...rule,
    source: {
      ...rule.source,
      examples: [{ name: id, dialect, config, outputs: {}, others: {}, values: {}, is: 'pass' }],
    },
  })
  return trial?.verdict?.outcome ?? ''
}
const value = (name: string): Value | undefined => hardening.source.values[name]?.default

// The levels are those of the tables of the documents named; copied from memory.
describe('rules beside published tables', () => {
  it('SSH key exchange: RFC 9142, the summary in section 4', () => {
    const LEVELS: readonly [string, string][] = [
      ['curve25519-sha256', 'SHOULD'],
      ['curve448-sha512', 'MAY'],
      ['diffie-hellman-group-exchange-sha1', 'SHOULD NOT'],
      ['diffie-hellman-group-exchange-sha256', 'MAY'],
      ['diffie-hellman-group1-sha1', 'SHOULD NOT'],
      ['diffie-hellman-group14-sha1', 'MAY'],
      ['diffie-hellman-group14-sha256', 'MUST'],
      ['diffie-hellman-group15-sha512', 'MAY'],
      ['diffie-hellman-group16-sha512', 'SHOULD'],
      ['diffie-hellman-group17-sha512', 'MAY'],
      ['diffie-hellman-group18-sha512', 'MAY'],
      ['ecdh-sha2-nistp256', 'SHOULD'],
      ['ecdh-sha2-nistp384', 'SHOULD'],
      ['ecdh-sha2-nistp521', 'SHOULD'],
      ['rsa1024-sha1', 'MUST NOT'],
      ['rsa2048-sha256', 'MAY'],
    ]
    for (const [name, level] of LEVELS)
      expect(outcomeOf('ssh-key-exchange', `ip ssh server algorithm kex ${name}\n`), `${name} ${level}`).to.equal(
        level.endsWith('NOT') ? 'fail' : 'pass',
      )
  })

  it('groups of IKEv2: RFC 8247, section 2.4', () => {
    const LEVELS: readonly [number, string][] = [
      [14, 'MUST'],
      [19, 'SHOULD'],
      [5, 'SHOULD NOT'],
      [2, 'SHOULD NOT'],
      [1, 'MUST NOT'],
      [22, 'MUST NOT'],
      [23, 'SHOULD NOT'],
      [24, 'SHOULD NOT'],
    ]
    for (const [group, level] of LEVELS) {
      const is = level.endsWith('NOT') ? 'fail' : 'pass'
      expect(outcomeOf('ike-groups', `crypto ikev2 proposal P\n group ${group}\n`), `${group} ${level}`).to.equal(is)
      expect(
        outcomeOf('ike-groups', `set security ike proposal P dh-group group${group}\n`, 'setlines'),
        `${group} ${level}`,
      ).to.equal(is)
    }
  })

  it('encryption and integrity of IKEv2: RFC 8247, sections 2.1 and 2.3; 3DES by NIST SP 800-131A r2, section 2', () => {
    for (const [name, is] of [
      ['aes-cbc-256', 'pass'],
      ['aes-gcm-256', 'pass'],
      ['des', 'fail'],
      ['3des', 'fail'],
    ])
      expect(outcomeOf('ike-encryption', `crypto ikev2 proposal P\n encryption ${name ?? ''}\n`), name).to.equal(is)
    for (const [name, is] of [
      ['sha256', 'pass'],
      ['sha512', 'pass'],
      ['md5', 'fail'],
    ])
      expect(
        outcomeOf('ike-integrity', `crypto ikev2 proposal P\n encryption aes-cbc-256\n integrity ${name ?? ''}\n`),
        name,
      ).to.equal(is)
  })

  it('ESP: RFC 8221, sections 5 and 6', () => {
    for (const [transforms, is] of [
      ['esp-gcm 256', 'pass'],
      ['esp-aes 256 esp-sha256-hmac', 'pass'],
      ['esp-des esp-sha-hmac', 'fail'],
      ['esp-aes 256 esp-md5-hmac', 'fail'],
    ])
      expect(outcomeOf('esp-algorithms', `crypto ipsec transform-set T ${transforms ?? ''}\n`), transforms).to.equal(is)
  })

  it('sources that must not come in: every block of RFC 6890 (with RFC 6598 and RFC 5737) that is not global, and none that is', () => {
    const number = (address: string): number => address.split('.').reduce((sum, part) => sum * 256 + Number(part), 0)
    const parts = (prefix: string): [number, number] => [
      number(prefix.split('/')[0] ?? ''),
      Number(prefix.split('/')[1]),
    ]
    const inside = ([address, length]: [number, number], [net, bits]: [number, number]): boolean =>
      length >= bits && Math.floor(address / 2 ** (32 - bits)) === Math.floor(net / 2 ** (32 - bits))
    const bogons = ([value('bogons')].flat() as string[]).map(parts)
    const NOT_GLOBAL = [
      '0.0.0.0/8',
      '10.0.0.0/8',
      '100.64.0.0/10',
      '127.0.0.0/8',
      '169.254.0.0/16',
      '172.16.0.0/12',
      '192.0.0.0/24',
      '192.0.2.0/24',
      '192.168.0.0/16',
      '198.18.0.0/15',
      '198.51.100.0/24',
      '203.0.113.0/24',
      '240.0.0.0/4',
      '255.255.255.255/32',
    ]
    for (const prefix of NOT_GLOBAL)
      expect(
        bogons.some((bogon) => inside(parts(prefix), bogon)),
        prefix,
      ).to.equal(true)
    for (const prefix of [
      '192.88.99.0/24',
      '9.0.0.0/8',
      '11.0.0.0/8',
      '172.32.0.0/16',
      '198.20.0.0/16',
      '223.255.255.0/24',
    ])
      expect(
        bogons.some((bogon) => inside(parts(prefix), bogon) || inside(bogon, parts(prefix))),
        prefix,
      ).to.equal(false)
  })

  it('defaults hold what PCI DSS 4.0.1 asks at least: 8.2.8 (15 minutes), 8.3.4 (10 attempts, 30 minutes), 8.3.6 (12 characters)', () => {
    expect(value('idle_limit')).to.be.at.most(15 * 60)
    expect(value('max_attempts')).to.be.at.most(10)
    expect(value('lockout_seconds')).to.be.at.least(30 * 60)
    expect(value('password_length')).to.be.at.least(12)
  })

  it('lengths of keys: NIST SP 800-131A r2, table 2', () => {
    const rule = hardening.source.rules.find(({ id }) => id === 'certificate-keys')
    const short = rule?.decide.find(({ id }) => id === 'short')?.when
    if (typeof short !== 'object' || !('model' in short)) throw new Error('the rule has no such case')
    const isShort = compileExpression(short.model)
    // RSA and DSA below 112 bits of strength (2048) and curves below 224 bits are disallowed for signatures.
    const ALLOWED: readonly [string, number, boolean][] = [
      ['RSA', 1024, false],
      ['RSA', 2047, false],
      ['RSA', 2048, true],
      ['RSA', 3072, true],
      ['EC', 192, false],
      ['EC', 223, false],
      ['EC', 224, true],
      ['EC', 256, true],
      ['EC', 521, true],
      ['Ed25519', 256, true],
    ]
    for (const [keyKind, keyBits, allowed] of ALLOWED)
      expect(isShort.evaluate({ certificate: { keyKind, keyBits, subject: 'x' } }), `${keyKind} ${keyBits}`).to.equal(
        !allowed,
      )
  })

  describe('external BGP: RFC 7454', () => {
    const SESSION = 'router bgp 64500\n neighbor 192.0.2.2 remote-as 64501\n'
    // By section: what fulfils the recommendation, and the rule that asks for it.
    const LIST: readonly [string, string, string][] = [
      ['5.1 protection of TCP sessions', ' neighbor 192.0.2.2 password 7 0822\n', 'bgp-authenticated'],
      ['5.2 BGP TTL security', ' neighbor 192.0.2.2 ttl-security hops 1\n', 'bgp-ttl-security'],
      [
        '6 prefix filtering, inbound and outbound',
        ' neighbor 192.0.2.2 prefix-list IN in\n neighbor 192.0.2.2 prefix-list OUT out\n',
        'bgp-policies',
      ],
      ['8 maximum prefixes on a peering', ' neighbor 192.0.2.2 maximum-prefix 1000\n', 'bgp-prefix-limit'],
    ]
    for (const [section, lines, id] of LIST) {
      it(section, () => {
        expect(outcomeOf(id, SESSION)).to.equal('fail')
        expect(outcomeOf(id, `${SESSION}${lines}`)).to.equal('pass')
        // What another section asks for does not stand in for it.
        expect(
          outcomeOf(
            id,
            `${SESSION}${LIST.filter((other) => other[2] !== id)
              .map((other) => other[1])
              .join('')}`,
          ),
        ).to.equal('fail')
      })
    }

    it('6.1.1 special-purpose prefixes are among those that the sources of packets are held to', () => {
      // RFC 7454 §6.1.1.1 names the list of RFC 6890; the default value of the benchmark is that list.
      expect(value('bogons')).to.include.members(['0.0.0.0/8', '127.0.0.0/8', '169.254.0.0/16'])
    })
  })
})
