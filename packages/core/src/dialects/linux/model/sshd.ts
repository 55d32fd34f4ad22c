import { NOT_TAKEN, partly, type Harmless, type Mapping } from '../../../model/mapping.ts'
import type { Writer } from '../../../model/writer.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'

type System = DeviceModel['system']

export const ssh = (w: Writer<System>): Writer<System['services']['ssh']> => w.at('services').at('ssh')

/** Of what is said twice, sshd hears the first (sshd_config(5)). */
function first<K extends keyof System['services']['ssh'] & string>(
  w: Writer<System>,
  field: K,
  value: System['services']['ssh'][K],
): unknown {
  const own = ssh(w)
  const said = own.target[field]
  return said === null || (Array.isArray(said) && said.length === 0) ? own.set(field, value) : own.set(field, said)
}

/** Algorithms by name; with a sign before them they change the list of the software, which is not known. */
function algorithms(w: Writer<System>, field: 'ciphers' | 'macs' | 'keyExchange' | 'hostKeys', text: string): unknown {
  return /^[-^]/.test(text)
    ? NOT_TAKEN
    : text.startsWith('+')
      ? partly(first(w, field, text.slice(1).split(',')))
      : first(w, field, text.split(','))
}

/** `90`, `2m`, `1h30m` (sshd_config(5), TIME FORMATS) in seconds. */
function secondsOf(text: string): number | null {
  const units: Readonly<Record<string, number>> = { '': 1, s: 1, m: 60, h: 3600, d: 86_400, w: 604_800 }
  const parts = [...text.toLowerCase().matchAll(/(\d+)([smhdw]?)/g)]
  return parts.length === 0 || parts.map(([whole]) => whole).join('') !== text.toLowerCase()
    ? null
    : parts.reduce((sum, [, count, unit = '']) => sum + Number(count) * (units[unit] ?? 1), 0)
}

export const SSHD_HARMLESS: readonly Harmless[] = [
  [
    'it changes neither who may log in nor by what',
    [
      'acceptenv ...',
      'subsystem ...',
      'printmotd ...',
      'printlastlog ...',
      'syslogfacility ...',
      'loglevel ...',
      'tcpkeepalive ...',
      'usedns ...',
      'pidfile ...',
      'addressfamily ...',
      'versionaddendum ...',
      'rekeylimit ...',
      'ipqos ...',
      'compression ...',
      'chrootdirectory ...',
      'setenv ...',
      'strictmodes ...',
      'debianbanner ...',
      'requiredrsasize ...',
      'fingerprinthash ...',
      'streamlocalbindmask ...',
      'streamlocalbindunlink ...',
      'channeltimeout ...',
      'unusedconnectiontimeout ...',
      'maxsessions ...',
      'maxstartups ...',
      'persourcemaxstartups ...',
      'persourcenetblocksize ...',
      'clientalivecountmax ...',
      'clientaliveinterval ...',
      'printmotd ...',
      'versionaddendum ...',
      'hostkey ...',
      'hostcertificate ...',
      'hostkeyagent ...',
      'sshdsessionpath ...',
    ],
  ],
  [
    'no rule rests on it',
    [
      'usepam ...',
      'pubkeyauthentication ...',
      'kbdinteractiveauthentication ...',
      'challengeresponseauthentication ...',
      'kerberosauthentication ...',
      'gssapiauthentication ...',
      'authorizedkeysfile ...',
      'authorizedkeyscommand ...',
      'authorizedkeyscommanduser ...',
      'authorizedprincipalsfile ...',
      'authorizedprincipalscommand ...',
      'authorizedprincipalscommanduser ...',
      'trustedusercakeys ...',
      'revokedkeys ...',
      'hostbasedauthentication ...',
      'hostbasedusesnamefrompacketonly ...',
      'hostbasedacceptedalgorithms ...',
      'ignorerhosts ...',
      'ignoreuserknownhosts ...',
      'passwordauthentication ...',
      'permitemptypasswords ...',
      'allowusers ...',
      'denyusers ...',
      'allowgroups ...',
      'denygroups ...',
      'x11forwarding ...',
      'x11displayoffset ...',
      'x11uselocalhost ...',
      'xauthlocation ...',
      'allowagentforwarding ...',
      'allowtcpforwarding ...',
      'allowstreamlocalforwarding ...',
      'gatewayports ...',
      'permittunnel ...',
      'permitlisten ...',
      'permitopen ...',
      'permittty ...',
      'permituserrc ...',
      'permituserenvironment ...',
      'disableforwarding ...',
      'authenticationmethods ...',
      'pubkeyacceptedalgorithms ...',
      'pubkeyauthoptions ...',
      'casignaturealgorithms ...',
      'securitykeyprovider ...',
      'kerberosorlocalpasswd ...',
      'kerberosticketcleanup ...',
      'gssapicleanupcredentials ...',
      'gssapistrictacceptorcheck ...',
      'exposeauthinfo ...',
      'modulifile ...',
      'refuseconnection ...',
      'persourcepenalties ...',
      'persourcepenaltyexemptlist ...',
      'rdomain ...',
    ],
  ],
]

export const SSHD: readonly Mapping<System>[] = [
  ['protocol <versions>', (w, b) => first(w, 'version', b.text('versions') === '2' ? '2' : '1')],
  ['port ...', (w) => ssh(w).set('enabled', true)],
  ['listenaddress ...', (w) => ssh(w).set('enabled', true)],
  ['permitrootlogin <how>', (w, b) => first(w, 'rootLogin', b.text('how') === 'no' ? 'deny' : b.text('how'))],
  ['logingracetime <time>', (w, b) => first(w, 'timeoutSeconds', secondsOf(b.text('time')))],
  ['maxauthtries <tries:int>', (w, b) => first(w, 'retries', b.number('tries'))],
  ['ciphers <names>', (w, b) => algorithms(w, 'ciphers', b.text('names'))],
  ['macs <names>', (w, b) => algorithms(w, 'macs', b.text('names'))],
  ['kexalgorithms <names>', (w, b) => algorithms(w, 'keyExchange', b.text('names'))],
  ['hostkeyalgorithms <names>', (w, b) => algorithms(w, 'hostKeys', b.text('names'))],
  [
    'banner <file>',
    (w, b) => w.at('banners').set('login', b.text('file') === 'none' ? '' : `the text of ${b.text('file')}`),
  ],
]
