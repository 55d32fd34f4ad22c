/** An invented device of about 400 lines, different for each number, good and bad by turns. */
export function generateDevice(n: number): string {
  const out: string[] = []
  const good = n % 3 !== 0
  const add = (...lines: string[]): void => void out.push(...lines)
  add(
    '!',
    `! Last configuration change at 10:00:00 UTC Mon Nov 2 2026`,
    'version 7.4',
    'no service pad',
    good ? 'service password-encryption' : 'no service password-encryption',
    `service timestamps log datetime msec${good ? ' localtime show-timezone' : ''}`,
    '!',
    `hostname bench-${n}`,
    '!',
  )
  add(
    `enable secret ${good ? 9 : 5} $9$abcdefghijklmnop${n}`,
    'aaa new-model',
    `aaa authentication login default group tacacs+ ${good ? 'local' : 'none'}`,
    'no ip source-route',
    'no ip bootp server',
    'ip domain name bench.example',
  )
  for (let u = 0; u < 4; u++)
    add(`username user${u} privilege ${u === 0 ? 15 : 1} secret ${good || u < 3 ? 9 : 5} $9$qwertyuiop${n}${u}`)
  for (let v = 10; v < 30; v++) add(`vlan ${v}`, ` name V${v}`, '!')
  for (let i = 1; i <= 32; i++) {
    add(`interface GigabitEthernet1/0/${i}`)
    if (i % 8 === 0) add(good ? ' shutdown' : ' no ip address')
    else
      add(
        ` description Desk ${n}-${i}`,
        ` switchport access vlan ${10 + (i % 20)}`,
        ' switchport mode access',
        ' spanning-tree portfast',
        ' storm-control broadcast level 1.00',
      )
    add('!')
  }
  for (let v = 10; v < 16; v++)
    add(
      `interface Vlan${v}`,
      ` ip address 10.${n % 250}.${v}.1 255.255.255.0`,
      ...(good ? [' no ip proxy-arp'] : []),
      ' no ip redirects',
      '!',
    )
  add(
    'interface GigabitEthernet1/1/1',
    ' description Carrier uplink',
    ' ip address 203.0.113.2 255.255.255.252',
    ' ip access-group OUTSIDE-IN in',
    ' no ip proxy-arp',
    '!',
  )
  add(
    'router ospf 1',
    ` router-id 10.255.${n % 250}.1`,
    ' passive-interface default',
    ' network 10.0.0.0 0.255.255.255 area 0',
    '!',
    'no ip http server',
    'no ip http secure-server',
    'ip ssh version 2',
    '!',
  )
  add('ip access-list extended OUTSIDE-IN')
  for (const bogon of [
    '0.0.0.0 0.255.255.255',
    '10.0.0.0 0.255.255.255',
    '100.64.0.0 0.63.255.255',
    '127.0.0.0 0.255.255.255',
    '169.254.0.0 0.0.255.255',
    '172.16.0.0 0.15.255.255',
    '192.0.0.0 0.0.0.255',
    '192.0.2.0 0.0.0.255',
    '192.168.0.0 0.0.255.255',
    '198.18.0.0 0.1.255.255',
    '198.51.100.0 0.0.0.255',
    '203.0.113.0 0.0.0.255',
    ...(good ? ['240.0.0.0 15.255.255.255'] : []),
  ])
    add(` deny   ip ${bogon} any`)
  add(
    ' permit tcp any host 203.0.113.2 eq 443',
    ' permit tcp any any established',
    ' deny   ip any any log',
    '!',
    'access-list 10 permit 10.0.0.0 0.255.255.255',
    'access-list 10 deny   any log',
    '!',
  )
  add(
    'logging trap informational',
    'logging host 10.0.0.5',
    'snmp-server group OPS v3 priv',
    'snmp-server location Bench',
    'banner login ^C',
    'Authorised use only.',
    'no ip http server',
    '^C',
    '!',
  )
  add(
    'line con 0',
    ' exec-timeout 5 0',
    'line aux 0',
    ' exec-timeout 0 1',
    'line vty 0 4',
    ' access-class 10 in',
    ' exec-timeout 10 0',
    ` transport input ${good ? 'ssh' : 'telnet ssh'}`,
    'line vty 5 15',
    ' access-class 10 in',
    ' transport input ssh',
    '!',
  )
  add(
    'ntp authentication-key 1 md5 abcdef 7',
    'ntp authenticate',
    'ntp trusted-key 1',
    'ntp server 10.0.0.1 key 1',
    'ntp server 10.0.0.2 key 1',
    '!',
    'end',
    '',
  )
  return out.join('\n')
}
