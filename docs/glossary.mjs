// Writes docs/glossary.md from the glossary that ships: node --import tsx docs/glossary.mjs
import { writeFileSync } from 'node:fs'
import { glossary } from '@jurybox/content'

export function glossaryText() {
  const rows = glossary().map(({ term, meaning }) => `**${term}** — ${meaning}`)
  return `# Glossary\n\nMade from \`packages/content/glossary.yaml\` by \`node --import tsx docs/glossary.mjs\`; the page *Glossary* shows the same.\n\n${rows.join('\n\n')}\n`
}

if (process.argv[1]?.endsWith('glossary.mjs')) writeFileSync(new URL('glossary.md', import.meta.url), glossaryText())
