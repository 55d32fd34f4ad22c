import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'

/** Paper and ink. Every component's defaults are set here, so that no page restyles one. */
const light = {
  dark: false,
  variables: { 'high-emphasis-opacity': 1, 'medium-emphasis-opacity': 0.8 },
  colors: {
    background: '#F5F2EA',
    surface: '#FFFDF8',
    'surface-variant': '#ECE7DA',
    'on-surface': '#20242C',
    'on-background': '#20242C',
    'on-surface-variant': '#20242C',
    primary: '#5A2F52',
    'on-primary': '#FFFDF8',
    secondary: '#646A73',
    quiet: '#5F656E',
    rule: '#DAD4C5',
    brass: '#B58A2A',
    'brass-fill': '#F6E9C4',
    pass: '#1F7A6D',
    fail: '#B93A22',
    unknown: '#7E5800',
    waived: '#5B4B9A',
    error: '#B93A22',
    success: '#1F7A6D',
    warning: '#7E5800',
    info: '#5A2F52',
  },
}
const dark = {
  dark: true,
  variables: { 'high-emphasis-opacity': 1, 'medium-emphasis-opacity': 0.8 },
  colors: {
    background: '#17161A',
    surface: '#201F25',
    'surface-variant': '#2B2931',
    'on-surface': '#ECE7DC',
    'on-background': '#ECE7DC',
    'on-surface-variant': '#ECE7DC',
    primary: '#C79ABF',
    'on-primary': '#17161A',
    secondary: '#A9A59C',
    quiet: '#A9A59C',
    rule: '#3A3841',
    brass: '#D8B25A',
    'brass-fill': '#4A3F20',
    pass: '#5CC2B2',
    fail: '#F08A72',
    unknown: '#E0B24A',
    waived: '#A99BE8',
    error: '#F08A72',
    success: '#5CC2B2',
    warning: '#E0B24A',
    info: '#C79ABF',
  },
}

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
  return vuetify
}
