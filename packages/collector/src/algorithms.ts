import type { Algorithms } from 'ssh2'

/**
 * What a connection may use. RFC 9142 §4 gives the levels of key exchanges: those that it deprecates (SHOULD NOT, MUST
 * NOT) and the one with SHA-1 that it merely allows are left to devices that are marked as old. RFC 8332 deprecates
 * `ssh-rsa`, RFC 8758 the arcfour ciphers.
 */
export const CURRENT_ALGORITHMS: Algorithms = {
  kex: [
    'curve25519-sha256',
    'curve25519-sha256@libssh.org',
    'ecdh-sha2-nistp256',
    'ecdh-sha2-nistp384',
    'ecdh-sha2-nistp521',
    'diffie-hellman-group-exchange-sha256',
    'diffie-hellman-group14-sha256',
    'diffie-hellman-group15-sha512',
    'diffie-hellman-group16-sha512',
    'diffie-hellman-group17-sha512',
    'diffie-hellman-group18-sha512',
  ],
  serverHostKey: [
    'ssh-ed25519',
    'ecdsa-sha2-nistp256',
    'ecdsa-sha2-nistp384',
    'ecdsa-sha2-nistp521',
    'rsa-sha2-512',
    'rsa-sha2-256',
  ],
  cipher: [
    'chacha20-poly1305@openssh.com',
    'aes128-gcm@openssh.com',
    'aes256-gcm@openssh.com',
    'aes128-ctr',
    'aes192-ctr',
    'aes256-ctr',
  ],
  hmac: ['hmac-sha2-256-etm@openssh.com', 'hmac-sha2-512-etm@openssh.com', 'hmac-sha2-256', 'hmac-sha2-512'],
}

/** For devices that are marked as old: the deprecated algorithms as well, the current ones first. */
export const WITH_DEPRECATED_ALGORITHMS: Algorithms = {
  kex: [
    ...(CURRENT_ALGORITHMS.kex as string[]),
    'diffie-hellman-group14-sha1',
    'diffie-hellman-group-exchange-sha1',
    'diffie-hellman-group1-sha1',
  ] as NonNullable<Algorithms['kex']>,
  serverHostKey: [...(CURRENT_ALGORITHMS.serverHostKey as string[]), 'ssh-rsa'] as NonNullable<
    Algorithms['serverHostKey']
  >,
  cipher: [...(CURRENT_ALGORITHMS.cipher as string[]), 'aes128-cbc', 'aes256-cbc', '3des-cbc'] as NonNullable<
    Algorithms['cipher']
  >,
  hmac: [...(CURRENT_ALGORITHMS.hmac as string[]), 'hmac-sha1'] as NonNullable<Algorithms['hmac']>,
}
