/**
 * A prompt with what was typed, a place (`[edit system]`), a member's name (`{master:0}`): what surrounds a listing.
 */
export const FRAME =
  /^(?:[\w.-]+@[\w.-]+(?::[\w~/.-]*)?[>#%$]|[\w.-]+[>#%](?: ?(?:show|configure|exit|quit)\b|\s*$)|\{\w+(?::[\w-]+)?\}\s*$|\[edit\b[^\]]*\]\s*$)/
