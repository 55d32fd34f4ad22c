import { expect } from 'chai'
import fc from 'fast-check'
import { stateOf } from '../../src/analysis/index.ts'
import { originOf } from '../../src/model/index.ts'
import { deviceStateSchema, type DeviceState } from '../../src/state/index.ts'

const read = (kind: string, text: string): ReturnType<typeof stateOf> => stateOf([{ record: 'r', kind, text }])
const brief = (routes: DeviceState['routes']): string[] =>
  routes.map(
    ({ prefix, protocol, distance, nextHops, selected, vrf }) =>
      `${vrf === null ? '' : `${vrf} `}${prefix} ${protocol} ${distance ?? '-'} ${nextHops.map(({ address, interface: port, discard }) => (discard ? 'discard' : [address, port].filter(Boolean).join('@'))).join('+')}${selected ? '' : ' not selected'}`,
  )

const LETTERS = `Codes: L - local, C - connected, S - static, O - OSPF
       E1 - OSPF external type 1
Gateway of last resort is 203.0.113.1 to network 0.0.0.0

S*    0.0.0.0/0 [1/0] via 203.0.113.1
      10.0.0.0/8 is variably subnetted, 4 subnets, 3 masks
C        10.40.7.0/24 is directly connected, GigabitEthernet0/1
L        10.40.7.1/32 is directly connected, GigabitEthernet0/1
O        10.40.8.0/24 [110/20] via 10.40.7.2, 00:01:02, GigabitEthernet0/1
                      [110/20] via 10.40.7.3, 00:01:02, GigabitEthernet0/2
S        10.99.0.0/16 is directly connected, Null0
`
const TABLES = `inet.0: 3 destinations, 3 routes (3 active, 0 holddown, 0 hidden)
+ = Active Route, - = Last Active, * = Both

0.0.0.0/0          *[Static/5] 1w2d 03:04:05
                    >  to 203.0.113.1 via ge-0/0/0.0
10.40.7.0/24       *[Direct/0] 1w2d 03:04:05
                    >  via ge-0/0/1.0
10.40.8.0/24       *[OSPF/10] 00:10:00, metric 20
                    >  to 10.40.7.2 via ge-0/0/1.0
                       to 10.40.7.3 via ge-0/0/2.0
10.99.0.0/16       *[Static/5] 1w2d 03:04:05
                       Discard
`

/**
 * RFC 8349 appendix D and RFC 8343 appendix D, their interfaces and routes in the JSON of RFC 7951; typed in from
 * memory, shortened.
 */
const RFC = `{
  "ietf-interfaces:interfaces": {
    "interface": [
      { "name": "eth0", "type": "iana-if-type:ethernetCsmacd", "description": "Uplink to ISP.",
        "phys-address": "00:0C:42:E5:B1:E9", "oper-status": "up",
        "statistics": { "discontinuity-time": "2015-10-24T17:11:27+02:00", "in-octets": "1024", "in-errors": 2 },
        "ietf-ip:ipv4": { "forwarding": true, "mtu": 1500, "address": [ { "ip": "192.0.2.1", "prefix-length": 24 } ] },
        "ietf-ip:ipv6": { "forwarding": true, "mtu": 1500, "address": [ { "ip": "2001:0db8:0:1::1", "prefix-length": 64 } ] } },
      { "name": "eth1", "type": "iana-if-type:ethernetCsmacd", "description": "Interface to the internal network.",
        "oper-status": "up", "ietf-ip:ipv4": { "address": [ { "ip": "198.51.100.1", "prefix-length": 24 } ] } }
    ]
  },
  "ietf-routing:routing": {
    "router-id": "192.0.2.1",
    "ribs": { "rib": [
      { "name": "ipv4-primary", "address-family": "ietf-ipv4-unicast-routing:ipv4-unicast", "default-rib": true,
        "routes": { "route": [
          { "ietf-ipv4-unicast-routing:destination-prefix": "192.0.2.1/24", "next-hop": { "outgoing-interface": "eth0" }, "route-preference": 0, "source-protocol": "ietf-routing:direct" },
          { "ietf-ipv4-unicast-routing:destination-prefix": "198.51.100.0/24", "next-hop": { "outgoing-interface": "eth1" }, "route-preference": 0, "source-protocol": "ietf-routing:direct" },
          { "ietf-ipv4-unicast-routing:destination-prefix": "0.0.0.0/0", "next-hop": { "ietf-ipv4-unicast-routing:next-hop-address": "192.0.2.2" }, "route-preference": 5, "source-protocol": "ietf-routing:static" } ] } } ] }
  }
}`

describe('operational state', () => {
  it('routes: both ways of listing them give one table', () => {
    const letters = read('routes', LETTERS)
    expect(brief(letters.state.routes)).to.deep.equal([
      '0.0.0.0/0 static 1 203.0.113.1',
      '10.40.7.0/24 connected - GigabitEthernet0/1',
      '10.40.7.1/32 local - GigabitEthernet0/1',
      '10.40.8.0/24 ospf 110 10.40.7.2@GigabitEthernet0/1+10.40.7.3@GigabitEthernet0/2',
      '10.99.0.0/16 static - discard',
    ])
    expect(letters.records[0]).to.deep.include({ form: 'routes by letters', unread: [] })
    const tables = read('routes', TABLES)
    expect(brief(tables.state.routes)).to.deep.equal([
      '0.0.0.0/0 static 5 203.0.113.1@ge-0/0/0.0',
      '10.40.7.0/24 connected 0 ge-0/0/1.0',
      '10.40.8.0/24 ospf 10 10.40.7.2@ge-0/0/1.0+10.40.7.3@ge-0/0/2.0',
      '10.99.0.0/16 static 5 discard',
    ])
    expect(tables.records[0]).to.deep.include({ form: 'routes by tables', unread: [] })
  })

  it('routes: every one points at its lines, next hops on lines of their own included', () => {
    const origin = originOf(read('routes', LETTERS).origins, 'routes[3]')
    expect(origin?.kind === 'line' && origin.lines.map(({ from }) => from)).to.deep.equal([9, 10])
  })

  it('interfaces and routes of the examples of RFC 8343 and RFC 8349', () => {
    const { state, origins } = read('interfaces', RFC)
    expect(
      state.interfaces.map(({ name, oper, mac, addresses, counters }) => [
        name,
        oper,
        mac,
        addresses,
        counters.inOctets,
        counters.inErrors,
      ]),
    ).to.deep.equal([
      ['eth0', 'up', '00:0c:42:e5:b1:e9', ['192.0.2.1/24', '2001:0db8:0:1::1/64'], 1024, 2],
      ['eth1', 'up', null, ['198.51.100.1/24'], null, null],
    ])
    expect(brief(state.routes)).to.deep.equal([
      '192.0.2.1/24 connected 0 eth0',
      '198.51.100.0/24 connected 0 eth1',
      '0.0.0.0/0 static 5 192.0.2.2',
    ])
    const origin = originOf(origins, 'routes[2]')
    expect(origin?.kind === 'line' && origin.lines[0]?.from).to.equal(20)
  })

  it('the same in XML, as a NETCONF reply (RFC 6241) carries it', () => {
    const xml = `<rpc-reply xmlns="urn:ietf:params:xml:ns:netconf:base:1.0" message-id="1"><data>
<interfaces xmlns="urn:ietf:params:xml:ns:yang:ietf-interfaces"><interface><name>eth0</name><oper-status>up</oper-status><phys-address>00:0C:42:E5:B1:E9</phys-address>
<statistics><in-octets>1024</in-octets></statistics><ipv4 xmlns="urn:ietf:params:xml:ns:yang:ietf-ip"><address><ip>192.0.2.1</ip><prefix-length>24</prefix-length></address></ipv4></interface></interfaces>
<routing xmlns="urn:ietf:params:xml:ns:yang:ietf-routing"><ribs><rib><name>ipv4-primary</name><default-rib>true</default-rib><routes>
<route><destination-prefix>0.0.0.0/0</destination-prefix><next-hop><next-hop-address>192.0.2.2</next-hop-address></next-hop><route-preference>5</route-preference><source-protocol>rt:static</source-protocol></route>
</routes></rib></ribs></routing></data></rpc-reply>`
    const { state, origins, records } = read('interfaces', xml)
    expect(records[0]).to.deep.include({ form: 'RFC 8343, 8348 and 8349', reason: null })
    expect(
      state.interfaces.map(({ name, oper, mac, addresses, counters }) => [
        name,
        oper,
        mac,
        addresses,
        counters.inOctets,
      ]),
    ).to.deep.equal([['eth0', 'up', '00:0c:42:e5:b1:e9', ['192.0.2.1/24'], 1024]])
    expect(brief(state.routes)).to.deep.equal(['0.0.0.0/0 static 5 192.0.2.2'])
    const origin = originOf(origins, 'routes[0]')
    expect(origin?.kind === 'line' && origin.lines[0]?.from).to.equal(5)
  })

  const outputs: { name: string; kind: string; text: string; take: (state: DeviceState) => unknown; is: unknown }[] = [
    {
      name: 'interfaces with their counters',
      kind: 'interfaces',
      text: 'GigabitEthernet0/1 is up, line protocol is down\n  Hardware is fast, address is 0011.2233.4455 (bia 0011.2233.4455)\n  Internet address is 10.40.7.1/24\n  MTU 1500 bytes, BW 1000000 Kbit/sec\n     100 packets input, 2000 bytes, 0 no buffer\n     7 input errors, 0 CRC\n     50 packets output, 900 bytes, 0 underruns\n     0 output errors, 0 collisions\nVlan9 is administratively down, line protocol is down\n',
      take: (s) =>
        s.interfaces.map(({ name, admin, oper, mac, mtu, addresses, counters }) => [
          name,
          admin,
          oper,
          mac,
          mtu,
          addresses,
          counters.inOctets,
          counters.inErrors,
          counters.outOctets,
        ]),
      is: [
        ['GigabitEthernet0/1', 'up', 'down', '00:11:22:33:44:55', 1500, ['10.40.7.1/24'], 2000, 7, 900],
        ['Vlan9', 'down', 'down', null, null, [], null, null, null],
      ],
    },
    {
      name: 'interfaces of the braced dialect',
      kind: 'interfaces',
      text: 'Physical interface: ge-0/0/1, Enabled, Physical link is Down\n  Link-level type: Ethernet, MTU: 1514, Speed: 1000mbps\nPhysical interface: ge-0/0/2, Administratively down, Physical link is Down\n',
      take: (s) => s.interfaces.map(({ name, admin, oper }) => [name, admin, oper]),
      is: [
        ['ge-0/0/1', 'up', 'down'],
        ['ge-0/0/2', 'down', 'down'],
      ],
    },
    {
      name: 'ip -j addr',
      kind: 'interfaces',
      text: '[{"ifname":"eth0","flags":["BROADCAST","UP","LOWER_UP"],"mtu":1500,"operstate":"UP","address":"5e:7d:dd:50:00:6d","addr_info":[{"family":"inet","local":"10.40.7.1","prefixlen":24}],"stats64":{"rx":{"bytes":656,"errors":1,"dropped":2},"tx":{"bytes":1344,"errors":0,"dropped":0}}}]',
      take: (s) =>
        s.interfaces.map(({ name, admin, oper, addresses, counters }) => [
          name,
          admin,
          oper,
          addresses,
          counters.inErrors,
          counters.inDiscards,
        ]),
      is: [['eth0', 'up', 'up', ['10.40.7.1/24'], 1, 2]],
    },
    {
      name: 'ip -j route',
      kind: 'routes',
      text: '[{"dst":"default","gateway":"203.0.113.1","dev":"eth0","protocol":"static"},{"dst":"10.40.7.0/24","dev":"eth1","protocol":"kernel","scope":"link"},{"type":"blackhole","dst":"10.99.0.0/16","protocol":"static","metric":20},{"type":"broadcast","dst":"10.40.7.255","table":"local","dev":"eth1"}]',
      take: (s) => brief(s.routes),
      is: ['0.0.0.0/0 static - 203.0.113.1@eth0', '10.40.7.0/24 connected - eth1', '10.99.0.0/16 static - discard'],
    },
    {
      name: 'ip -j neigh',
      kind: 'arp',
      text: '[{"dst":"10.40.7.2","dev":"eth1","lladdr":"00:11:22:33:44:55","state":["REACHABLE"]}]',
      take: (s) => s.addresses,
      is: [{ address: '10.40.7.2', family: 'ipv4', mac: '00:11:22:33:44:55', interface: 'eth1', state: 'reachable' }],
    },
    {
      name: 'ARP',
      kind: 'arp',
      text: 'Protocol  Address          Age (min)  Hardware Addr   Type   Interface\nInternet  10.40.7.2               3   0011.2233.4455  ARPA   GigabitEthernet0/1\nInternet  10.40.7.9               0   Incomplete      ARPA\n',
      take: (s) => s.addresses.map(({ address, mac, interface: port, state }) => [address, mac, port, state]),
      is: [
        ['10.40.7.2', '00:11:22:33:44:55', 'GigabitEthernet0/1', 'reachable'],
        ['10.40.7.9', null, null, 'incomplete'],
      ],
    },
    {
      name: 'neighbours (fields of IEEE 802.1AB)',
      kind: 'neighbours',
      text: 'Capability codes:\n    (R) Router, (B) Bridge\n\nDevice ID           Local Intf     Hold-time  Capability      Port ID\nops-core2           Te1/1          120        B,R             Te1/2\n\nTotal entries displayed: 1\n',
      take: (s) => s.neighbours.map(({ system, interface: port, port: remote }) => [system, port, remote]),
      is: [['ops-core2', 'Te1/1', 'Te1/2']],
    },
    {
      name: 'MAC addresses',
      kind: 'mac',
      text: '          Mac Address Table\n-------------------------------------------\n\nVlan    Mac Address       Type        Ports\n----    -----------       --------    -----\n  10    0011.2233.4455    DYNAMIC     Gi1/0/1\n',
      take: (s) => s.macs,
      is: [{ vlan: 10, mac: '00:11:22:33:44:55', kind: 'dynamic', interface: 'Gi1/0/1' }],
    },
    {
      name: 'a clock that nobody set',
      kind: 'clock',
      text: '*06:30:00.123 UTC Mon Nov 16 2026\n',
      take: (s) => s.clock,
      is: { time: '06:30:00.123 UTC Mon Nov 16 2026', source: 'not authoritative' },
    },
    {
      name: 'time servers',
      kind: 'ntp',
      text: 'Clock is synchronized, stratum 3, reference is 10.40.0.11\n\n  address         ref clock       st   when   poll reach  delay  offset   disp\n*~10.40.0.11      192.0.2.1        2     24     64   377  1.000   0.500  0.9\n ~10.40.0.12      .INIT.          16      -     64     0  0.000   0.000 15937.\n',
      take: (s) => [
        s.ntp.synchronised,
        s.ntp.stratum,
        s.ntp.reference,
        s.ntp.associations.map(({ address, selected, reach }) => [address, selected, reach]),
      ],
      is: [
        true,
        3,
        '10.40.0.11',
        [
          ['10.40.0.11', true, 255],
          ['10.40.0.12', false, 0],
        ],
      ],
    },
    {
      name: 'OSPF neighbours',
      kind: 'ospf',
      text: 'Neighbor ID     Pri   State           Dead Time   Address         Interface\n10.255.0.2        1   FULL/DR         00:00:33    10.40.7.2       GigabitEthernet0/1\n10.255.0.3        1   INIT/DROTHER    00:00:31    10.40.7.3       GigabitEthernet0/1\n',
      take: (s) => s.adjacencies.map(({ neighbour, address, interface: port, up }) => [neighbour, address, port, up]),
      is: [
        ['10.255.0.2', '10.40.7.2', 'GigabitEthernet0/1', true],
        ['10.255.0.3', '10.40.7.3', 'GigabitEthernet0/1', false],
      ],
    },
    {
      name: 'BGP neighbours',
      kind: 'bgp',
      text: 'BGP router identifier 10.40.7.1, local AS number 65001\nNeighbor        V    AS MsgRcvd MsgSent   TblVer  InQ OutQ Up/Down  State/PfxRcd\n203.0.113.1     4 64500     100     101       12    0    0 01:02:03        5\n203.0.113.5     4 64501       0       0        1    0    0 never    Idle\n',
      take: (s) =>
        s.adjacencies.map(({ neighbour, remoteAs, up, prefixes, state }) => [neighbour, remoteAs, up, prefixes, state]),
      is: [
        ['203.0.113.1', '64500', true, 5, 'established'],
        ['203.0.113.5', '64501', false, null, 'idle'],
      ],
    },
    {
      name: 'version and uptime',
      kind: 'version',
      text: 'OstOS release 7.4(2), stable\nqs-dist1: in service for 3 weeks, 2 days\nHardware model: C-44\nHardware serial: OST00123\n',
      take: (s) => s.software,
      is: { version: '7.4(2)', model: 'C-44', serial: 'OST00123', uptime: '3 weeks, 2 days' },
    },
  ]
  for (const { name, kind, text, take, is } of outputs) {
    it(name, () => {
      const { state, records } = read(kind, text)
      expect(take(state)).to.deep.equal(is)
      expect(records[0]?.unread).to.deep.equal([])
      expect(deviceStateSchema.safeParse(state).success).to.equal(true)
    })
  }

  it('says what it does not recognise, and which lines nothing was made of', () => {
    expect(read('routes', 'who knows\n').records[0]).to.deep.include({
      form: null,
      reason: 'no form of output "routes" was recognised',
    })
    expect(read('routes', '{"a": ').records[0]?.reason).to.match(/not JSON|no form/)
    expect(read('routes', `${LETTERS}frobnicate all\n`).records[0]?.unread).to.deep.equal([12])
  })

  it('several outputs are one state', () => {
    const { state } = stateOf([
      { record: 'a', kind: 'routes', text: LETTERS },
      { record: 'b', kind: 'arp', text: '[{"dst":"10.40.7.2","lladdr":"00:11:22:33:44:55","state":["STALE"]}]' },
    ])
    expect([state.routes.length, state.addresses.length]).to.deep.equal([5, 1])
  })

  it('never throws, and takes no longer than its text is long', () => {
    const kinds = [
      'routes',
      'interfaces',
      'neighbours',
      'arp',
      'mac',
      'clock',
      'ntp',
      'ospf',
      'bgp',
      'version',
      'alarms',
      'other',
    ]
    const piece = fc.oneof(
      fc.constantFrom(
        ...LETTERS.split('\n'),
        ...TABLES.split('\n'),
        ...RFC.split('\n'),
        'address reach stratum',
        '10.0.0.1 4 1 2 3 4 5 6 7',
      ),
      fc.string({ unit: 'binary', maxLength: 40 }),
    )
    fc.assert(
      fc.property(
        fc.constantFrom(...kinds),
        fc.array(piece, { maxLength: 30 }),
        (kind, parts) => deviceStateSchema.safeParse(read(kind, parts.join('\n')).state).success,
      ),
      { numRuns: 600 },
    )
    for (const kind of kinds)
      read(
        kind,
        `Codes: C\nline protocol is Device ID reach Mac Address Table Neighbor ID MsgRcvd Protocol  Address\n${`${'10.0.0.1 '.repeat(60)}\n`.repeat(2000)}${' '.repeat(100_000)}\n`,
      )
  })

  const parts: { name: string; kind: string; text: string; take: (state: DeviceState) => unknown; is: unknown }[] = [
    {
      name: 'associations of IPsec, in lines that follow each other',
      kind: 'ipsec',
      text: 'interface: Tunnel1\n   current_peer 203.0.113.9 port 500\n   inbound esp sas:\n      spi: 0x8A2F11C0(2318340544)\n        transform: esp-gcm 256 ,\n        sa timing: remaining key lifetime (k/sec): (4607989/2520)\n   outbound esp sas:\n      spi: 0x1B44(6980)\n',
      take: ({ securityAssociations }) => securityAssociations,
      is: [
        {
          peer: '203.0.113.9',
          spi: '8a2f11c0',
          direction: 'in',
          interface: 'Tunnel1',
          algorithm: 'esp-gcm 256',
          bytes: null,
          lifetimeSeconds: 2520,
        },
        {
          peer: '203.0.113.9',
          spi: '00001b44',
          direction: 'out',
          interface: 'Tunnel1',
          algorithm: null,
          bytes: null,
          lifetimeSeconds: null,
        },
      ],
    },
    {
      name: 'associations of IPsec, one a line',
      kind: 'ipsec',
      text: '  Total active tunnels: 1\n  ID    Algorithm       SPI      Life:sec/kb  Mon lsys Port  Gateway\n  <131073 ESP:aes-gcm-256/none 8a2f11c0 2520/ unlim - root 500 203.0.113.9\n  >131073 ESP:aes-gcm-256/none 1b44a03e 2520/ unlim - root 500 203.0.113.9\n',
      take: ({ securityAssociations }) =>
        securityAssociations.map(({ peer, spi, direction, algorithm, lifetimeSeconds }) => [
          peer,
          spi,
          direction,
          algorithm,
          lifetimeSeconds,
        ]),
      is: [
        ['203.0.113.9', '8a2f11c0', 'in', 'aes-gcm-256/none', 2520],
        ['203.0.113.9', '1b44a03e', 'out', 'aes-gcm-256/none', 2520],
      ],
    },
    {
      name: 'associations of the kernel (ip -s xfrm state)',
      kind: 'ipsec',
      text: 'src 10.40.7.1 dst 203.0.113.9\n\tproto esp spi 0x00001234 reqid 1(0x00000001) mode tunnel\n\treplay-window 32 seq 0x00000000 flag  (0x00000000)\n\taead rfc4106(gcm(aes)) 0x0102 (160 bits) 128\n\tlifetime current:\n\t  4711(bytes), 12(packets)\n',
      take: ({ securityAssociations }) =>
        securityAssociations.map(({ peer, spi, algorithm, bytes }) => [peer, spi, algorithm, bytes]),
      is: [['203.0.113.9', '00001234', 'rfc4106(gcm(aes))', 4711]],
    },
    {
      name: 'secure channels of the kernel (ip macsec show)',
      kind: 'macsec',
      text: '7: macsec0: protect on validate strict sc off sa off encrypt on send_sci on end_station off scb off replay off\n    cipher suite: GCM-AES-256, using ICV length 16\n    TXSC: 024d534600010001 on SA 0\n    RXSC: 024d534600020001, state on\n',
      take: ({ secureChannels }) =>
        secureChannels.map(({ interface: port, direction, sci, cipher, encrypts }) => [
          port,
          direction,
          sci,
          cipher,
          encrypts,
        ]),
      is: [
        ['macsec0', 'out', '024d534600010001', 'GCM-AES-256', true],
        ['macsec0', 'in', '024d534600020001', 'GCM-AES-256', true],
      ],
    },
    {
      name: 'parts, in columns',
      kind: 'environment',
      text: 'Class Item                           Status     Measurement\nTemp  Inlet                          OK         31 degrees C / 87 degrees F\nFans  Fan 1                          OK         Spinning at normal speed\n      Fan 2                          Check      Spinning at low speed\nPower Power Supply 0                 OK\n      Power Supply 1                 Absent\n',
      take: ({ parts: all }) => all.map(({ kind, name, ok, reading }) => [kind, name, ok, reading]),
      is: [
        ['temperature', 'Inlet', true, '31 degrees C / 87 degrees F'],
        ['fan', 'Fan 1', true, 'Spinning at normal speed'],
        ['fan', 'Fan 2', false, 'Spinning at low speed'],
        ['power', 'Power Supply 0', true, null],
      ],
    },
    {
      name: 'parts, in sentences',
      kind: 'environment',
      text: 'FAN 1 is OK\nSYSTEM TEMPERATURE is NOT OK\nPS1: Failed, 0 V\n',
      take: ({ parts: all }) => all.map(({ kind, ok, reading }) => [kind, ok, reading]),
      is: [
        ['fan', true, null],
        ['temperature', false, null],
        ['power', false, '0 V'],
      ],
    },
    {
      name: 'alarms with their severity',
      kind: 'alarms',
      text: '1 alarms currently active\nAlarm time               Class  Description\n2026-11-14 02:11:40 UTC  Minor  Rescue configuration is not set\nCRITICAL: fan tray removed\n',
      take: ({ alarms }) => alarms,
      is: [
        { text: 'Rescue configuration is not set', severity: 'minor', since: '2026-11-14 02:11:40 UTC' },
        { text: 'fan tray removed', severity: 'critical', since: null },
      ],
    },
    { name: 'no alarms', kind: 'alarms', text: 'No alarms currently active\n', take: ({ alarms }) => alarms, is: [] },
    {
      name: 'rules for choosing a table',
      kind: 'rules',
      text: '[{"priority":900,"src":"10.40.90.0","srclen":24,"table":"survey"},{"priority":32766,"src":"all","table":"main"}]',
      take: ({ policyRules }) => policyRules.map(({ priority, source, table }) => [priority, source, table]),
      is: [
        [900, '10.40.90.0/24', 'survey'],
        [32766, null, 'main'],
      ],
    },
  ]
  for (const { name, kind, text, take, is } of parts) {
    it(name, () => {
      const { state, records } = read(kind, text)
      expect(records[0]?.reason).to.equal(null)
      expect(records[0]?.unread).to.deep.equal([])
      expect(take(state)).to.deep.equal(is)
    })
  }
})
