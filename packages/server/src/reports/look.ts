import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'

const require = createRequire(import.meta.url)

/** A font within a style sheet: family, weight, file. */
type Face = readonly [family: string, weight: number, file: string]

/** Fonts of the product that the report names. */
const FONTS: readonly Face[] = [
  ['Source Serif 4', 600, '@fontsource/source-serif-4/files/source-serif-4-latin-600-normal.woff2'],
  ['Source Sans 3', 400, '@fontsource/source-sans-3/files/source-sans-3-latin-400-normal.woff2'],
  ['Source Sans 3', 600, '@fontsource/source-sans-3/files/source-sans-3-latin-600-normal.woff2'],
  ['JetBrains Mono', 400, '@fontsource/jetbrains-mono/files/jetbrains-mono-latin-400-normal.woff2'],
]

/** Whole fonts, for paper: subsets drop the characters that configurations hold. */
const WHOLE: readonly Face[] = [
  ['Source Serif 4', 600, '@expo-google-fonts/source-serif-4/600SemiBold/SourceSerif4_600SemiBold.ttf'],
  ['Source Sans 3', 400, '@expo-google-fonts/source-sans-3/400Regular/SourceSans3_400Regular.ttf'],
  ['Source Sans 3', 600, '@expo-google-fonts/source-sans-3/600SemiBold/SourceSans3_600SemiBold.ttf'],
  ['JetBrains Mono', 400, '@expo-google-fonts/jetbrains-mono/400Regular/JetBrainsMono_400Regular.ttf'],
]

const made = new Map<readonly Face[], string>()

/** A document that may ask for nothing has its fonts within. */
function fontFaces(faces: readonly Face[]): string {
  const known = made.get(faces)
  if (known !== undefined) return known
  const style = faces
    .map(([family, weight, file]) => {
      const type = file.endsWith('.ttf') ? 'ttf' : 'woff2'
      const data = readFileSync(require.resolve(file)).toString('base64')
      return `@font-face{font-family:"${family}";font-weight:${weight};src:url(data:font/${type};base64,${data})}`
    })
    .join('')
  made.set(faces, style)
  return style
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
  return `${fontFaces(FONTS)}${theme === 'dark' ? DARK : ''}`
}

/* What scrolls on a screen does not on paper, and each place that might costs the printing its time. */
const PAPER = `
html{font-size:7.5pt}body{font:9.5pt/1.35 "Source Sans 3",sans-serif;background:none;padding:0}
h1{font-size:22pt}h2{font-size:15pt;break-after:avoid}h3{font-size:11pt;break-after:avoid}h4{break-after:avoid}
header{break-after:avoid}nav{break-after:page}
.quiet,.meta,.kicker,figcaption{font-size:8pt}table{font-size:8.5pt}pre,code,.hash{font-size:7.5pt}
article,figure{break-inside:auto}tr,figcaption,pre{break-inside:avoid}
pre{break-inside:auto;overflow:visible;border-radius:0}thead{display:table-header-group}`

/**
 * How a document looks on paper.
 * @param head at the head of each page
 * @param foot beside the number of each page
 * @param pages what stands before that number, between it and how many there are, and after them
 */
export function paperStyle(head: string, foot: string, pages: readonly [string, string, string]): string {
  const [before, between, after] = pages.map(quoted)
  const number = `${before} counter(page) ${between} counter(pages) ${after}`
  const box = (place: string, content: string): string =>
    `@${place}{content:${content};font:8pt "Source Sans 3";color:#5f656e}`
  return (
    `${fontFaces(WHOLE)}${PAPER}@page{size:A4;margin:20mm 17mm;${box('top-left', quoted(head))}` +
    `${box('bottom-left', quoted(foot))}${box('bottom-right', number)}}` +
    '@page:first{@top-left{content:""}}'
  )
}

/** A string of CSS (Syntax Level 3 §4.3.5) within an HTML element of style. */
function quoted(text: string): string {
  return `"${text.replace(/[^\p{L}\p{N} .,:;·-]/gu, (one) => `\\${one.codePointAt(0)?.toString(16) ?? ''} `)}"`
}
