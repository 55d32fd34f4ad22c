/** Base64 (RFC 4648 §4) without anything of one environment. */
export function base64Of(bytes: Uint8Array): string {
  return btoa(Array.from(bytes, (one) => String.fromCharCode(one)).join(''))
}

/** @throws DOMException for what is no base64 */
export function bytesOfBase64(text: string): Uint8Array {
  return Uint8Array.from(atob(text), (one) => one.charCodeAt(0))
}
