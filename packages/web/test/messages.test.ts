import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { globSync } from 'tinyglobby'
import { en } from '../src/messages/en.ts'
import { counted, t } from '../src/messages/index.ts'

const source = fileURLToPath(new URL('../src', import.meta.url))
const catalogue = new Map(
  Object.entries(en).flatMap(([part, texts]) => Object.entries(texts).map(([key, text]) => [`${part}.${key}`, text])),
)
const files = globSync('**/*.{ts,vue}', { cwd: source }).filter((file) => !file.startsWith('messages/'))
const texts = files.map((file) => ({ file, text: readFileSync(`${source}/${file}`, 'utf8') }))
const used = new Set(
  texts.flatMap(({ text }) => [...text.matchAll(/\b(?:t|counted)\(\s*'([\w.]+)'/g)].map(([, key = '']) => key)),
)

/** Words that docs and pages must not use, by the table of the project's language. */
const NEVER = [
  /\bremed(?:y|ies)\b/i,
  /\bborne\b/i,
  /\bviolations?\b/i,
  /\bdoubts?\b/i,
  /\btidy/i,
  /\bmend/i,
  /\btake (?:it|them)? ?(?:in|out|off)\b/i,
  /\blet go\b/i,
  /\bbring\b/i,
  /\bforget\b/i,
  /\bon the (?:list|shelf)\b/i,
  /\boff the list\b/i,
  /\bnight session\b/i,
  /\blong work\b/i,
  /\bin the clear\b/i,
  /\bcannot be said\b/i,
]

describe('the catalogue of texts', () => {
  it('has every text that a page asks for', () =>
    expect([...used].filter((key) => !catalogue.has(key))).to.deep.equal([]))

  it('has no text that no page asks for', () =>
    expect([...catalogue.keys()].filter((key) => !used.has(key))).to.deep.equal([]))

  it('names its texts by what they say, not by a number', () => {
    const named = /(?:[sS]tep|[sS]ha|Aes|AtLeast|After|Timeout|about)\d+$/
    const numbered = [...catalogue.keys()].filter((key) => /\d$/.test(key) && !named.test(key))
    expect(numbered).to.deep.equal([])
  })

  it('uses the plain words of the trade', () => {
    const odd = [...catalogue].filter(([, text]) => NEVER.some((word) => word.test(text)))
    expect(odd.map(([key, text]) => `${key}: ${text}`)).to.deep.equal([])
  })

  it('keeps messages short: at most 20 words a sentence', () => {
    const long = [...catalogue].flatMap(([key, text]) =>
      text
        .split(/[.!?]\s/)
        .filter((sentence) => sentence.split(/\s+/).length > 20)
        .map((sentence) => `${key}: ${sentence}`),
    )
    expect(long).to.deep.equal([])
  })
})

describe('a text with values', () => {
  it('groups the thousands of what it counts, and of nothing that is a name', () => {
    expect(t('estate.ofDevicesMatch', { total: 12_345 })).to.equal('of 12,345 devices match')
    expect(t('search.line', { from: 12_345 })).to.contain('12345')
    expect(counted('collect.records', 1)).to.equal('1 record')
    expect(counted('collect.records', 1200)).to.equal('1,200 records')
  })
})
