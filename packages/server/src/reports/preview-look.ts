import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'

const require = createRequire(import.meta.url)

/** Fonts of the product that the report names: family, weight, file. */
const FONTS = [
  ['Source Serif 4', 600, '@fontsource/source-serif-4/files/source-serif-4-latin-600-normal.woff2'],
  ['Source Sans 3', 400, '@fontsource/source-sans-3/files/source-sans-3-latin-400-normal.woff2'],
  ['Source Sans 3', 600, '@fontsource/source-sans-3/files/source-sans-3-latin-600-normal.woff2'],
  ['JetBrains Mono', 400, '@fontsource/jetbrains-mono/files/jetbrains-mono-latin-400-normal.woff2'],
] as const

let fonts: string | null = null

/** The frame of the preview may ask for nothing, so its fonts come within it. */
function fontFaces(): string {
  fonts ??= FONTS.map(
    ([family, weight, file]) =>
      `@font-face{font-family:"${family}";font-weight:${weight};src:url(data:font/woff2;base64,${readFileSync(
        require.resolve(file),
      ).toString('base64')}) format("woff2")}`,
  ).join('')
  return fonts
}

const DARK = `
:root{color-scheme:dark}body{color:#ece7dc;background:#201f25}
h2,table th,table td,article{border-color:#3a3841}th,td{border-bottom-color:#3a3841}
.kicker,.meta,.quiet,figcaption,.n{color:#a9a59c}pre{background:#17161a;border-color:#3a3841}
a,.device{color:#c79abf}.mark.pass{border-color:#5cc2b2}.mark.fail{background:#f08a72}
.mark.unknown{border-color:#e0b24a;background:linear-gradient(135deg,#e0b24a 50%,transparent 50%)}
.mark.error{border-color:#ece7dc;background:linear-gradient(45deg,transparent 44%,#ece7dc 44% 56%,transparent 56%),linear-gradient(-45deg,transparent 44%,#ece7dc 44% 56%,transparent 56%)}
.mark.notapplicable,.mark.notchecked{background:#a9a59c}`

/** How the report looks in the product: in its fonts, and as dark as its pages. */
export function previewLook(theme: 'light' | 'dark'): string {
  return `${fontFaces()}${theme === 'dark' ? DARK : ''}`
}
