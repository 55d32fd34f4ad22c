import { createHash, createHmac } from 'node:crypto'

/** The hash of a body, as RFC 9530 writes it. */
export function contentDigest(body: string): string {
  return `sha-256=:${createHash('sha256').update(body).digest('base64')}:`
}

/**
 * Signs components of a message with a shared secret: HMAC with SHA-256, as RFC 9421 §3.3.3 has it.
 * @param components names in lower case, as they stand in the signature, with their values in that order
 * @param parameters text behind the list of components
 * @returns the two header fields, under the label given
 */
export function signed(
  components: readonly (readonly [name: string, value: string])[],
  parameters: string,
  secret: Buffer,
  label: string,
): { readonly input: string; readonly signature: string } {
  const list = `(${components.map(([name]) => `"${name}"`).join(' ')})${parameters}`
  const base = [...components.map(([name, value]) => `"${name}": ${value}`), `"@signature-params": ${list}`].join('\n')
  return {
    input: `${label}=${list}`,
    signature: `${label}=:${createHmac('sha256', secret).update(base).digest('base64')}:`,
  }
}
