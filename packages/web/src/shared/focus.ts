import type { Directive } from 'vue'

/**
 * Puts the cursor into a field as it appears, once. The fields' own way does it a moment later, and takes the cursor
 * away from who has begun to type elsewhere: a password would go into the field for the name.
 */
export const vFocus: Directive<HTMLElement> = {
  mounted: (element) => element.querySelector<HTMLElement>('input, textarea')?.focus(),
}
