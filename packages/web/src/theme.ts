import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'
import { dark, light } from './palette.ts'

/** What the person chose; `system` where they chose nothing. */
export type ThemeChoice = 'system' | 'light' | 'dark'

const isDark = window.matchMedia('(prefers-color-scheme: dark)')

export function themeChoice(): ThemeChoice {
  const kept = localStorage.getItem('theme')
  return kept === 'light' || kept === 'dark' ? kept : 'system'
}

/** The theme of a choice, as the system is now. */
export function themeFor(choice: ThemeChoice): 'light' | 'dark' {
  return choice === 'system' ? (isDark.matches ? 'dark' : 'light') : choice
}

/** @param change called with the theme whenever the system changes and nobody chose another */
export function followSystem(change: (theme: 'light' | 'dark') => void): void {
  isDark.addEventListener('change', () => {
    if (themeChoice() === 'system') change(themeFor('system'))
  })
}

/** Paper is white, whatever the screen is. */
function printLight(change: (theme: 'light' | 'dark') => void): void {
  window.addEventListener('beforeprint', () => change('light'))
  window.addEventListener('afterprint', () => change(themeFor(themeChoice())))
}

/** Every component's defaults are set here, so that no page restyles one. */
export function makeVuetify(nonce: string) {
  const vuetify = createVuetify({
    theme: { defaultTheme: themeFor(themeChoice()), themes: { light, dark }, cspNonce: nonce },
    icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
    defaults: {
      global: { density: 'compact', rounded: '3', elevation: 0, ripple: false },
      VBtn: { variant: 'outlined', color: 'primary', density: 'comfortable' },
      VTextField: { variant: 'outlined', hideDetails: 'auto', color: 'primary' },
      VTextarea: { variant: 'outlined', hideDetails: 'auto', color: 'primary' },
      VSelect: { variant: 'outlined', hideDetails: 'auto', color: 'primary' },
      VAutocomplete: { variant: 'outlined', hideDetails: 'auto', color: 'primary' },
      VCombobox: { variant: 'outlined', hideDetails: 'auto', color: 'primary' },
      VFileInput: { variant: 'outlined', hideDetails: 'auto', color: 'primary' },
      VRadioGroup: { hideDetails: 'auto', color: 'primary' },
      VCheckbox: { hideDetails: 'auto', color: 'primary' },
      VDialog: { maxWidth: 560, transition: false },
      VMenu: { transition: false },
      VTooltip: { transition: false },
      VTab: { color: 'primary' },
    },
  })
  followSystem((theme) => vuetify.theme.change(theme))
  printLight((theme) => vuetify.theme.change(theme))
  return vuetify
}
