import { readFileSync } from 'node:fs'
import { expect } from 'chai'
import { globSync } from 'tinyglobby'
import { dark, light } from '../src/palette.ts'

type Rgb = readonly [number, number, number]
const rgbOf = (hex: string): Rgb => [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16)) as unknown as Rgb

/** Relative luminance and contrast ratio: WCAG 2.2, definitions. */
function luminance(rgb: Rgb): number {
  const [r, g, b] = rgb.map((part) => {
    const share = part / 255
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4
  }) as unknown as Rgb
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}
function contrast(a: Rgb, b: Rgb): number {
  const [low = 0, high = 0] = [luminance(a), luminance(b)].sort((x, y) => x - y)
  return (high + 0.05) / (low + 0.05)
}
const over = (front: Rgb, back: Rgb, opacity: number): Rgb =>
  front.map((part, i) => part * opacity + (back[i] ?? 0) * (1 - opacity)) as unknown as Rgb

for (const [name, { colors }] of Object.entries({ light, dark }))
  describe(`the colours, ${name}`, () => {
    const grounds = [colors.background, colors.surface].map(rgbOf)

    it('are 21:1 for black on white, as WCAG says', () =>
      expect(contrast([0, 0, 0], [255, 255, 255])).to.be.closeTo(21, 1e-9))

    const words = ['on-surface', 'primary', 'secondary', 'quiet', 'pass', 'fail', 'unknown', 'waived'] as const
    for (const word of words)
      it(`words in ${word} can be read (4.5:1, WCAG 2.2, 1.4.3)`, () => {
        for (const ground of grounds) expect(contrast(rgbOf(colors[word]), ground)).to.be.at.least(4.5)
      })

    it('the border of a field can be seen (3:1, WCAG 2.2, 1.4.11)', () => {
      const css = readFileSync(new URL('../src/look.css', import.meta.url), 'utf8')
      const opacities = [
        Number(/--field: 1px solid rgba\(var\(--v-theme-on-surface\), ([\d.]+)\)/.exec(css)?.[1]),
        Number(/--v-field-border-opacity: ([\d.]+)/.exec(css)?.[1]),
      ]
      for (const opacity of opacities)
        for (const ground of grounds)
          expect(contrast(over(rgbOf(colors['on-surface']), ground, opacity), ground)).to.be.at.least(3)
    })

    it('words on what is marked can be read', () =>
      expect(contrast(rgbOf(colors['on-surface']), rgbOf(colors['brass-fill']))).to.be.at.least(4.5))
  })

describe('brass', () => {
  it('is never the colour of words', () => {
    const folder = new URL('../src', import.meta.url).pathname
    const files = globSync('**/*.{vue,css,ts}', { cwd: folder, absolute: true })
    expect(files.length).to.be.greaterThan(100)
    const wrong = files.filter((file) =>
      /(?:^|[;{\s'"])color: ?['"]?(?:rgb\(var\(--v-theme-brass\)\)|brass)|color="brass"|text-brass/m.test(
        readFileSync(file, 'utf8'),
      ),
    )
    expect(wrong).to.deep.equal([])
  })
})
