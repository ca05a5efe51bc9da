// Copies the font files that strips are drawn in and fits are measured with, and says which characters each has.
import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'

const FAMILIES = [
  'atkinson-hyperlegible-next',
  'inter',
  'source-sans-3',
  'nunito-sans',
  'noto-sans',
  'source-serif-4',
  'lora',
  'fraunces',
  'cairo',
  'noto-sans-arabic',
]
// In the order in which a character is looked for.
const SUBSETS = ['latin', 'latin-ext', 'arabic', 'greek', 'cyrillic']

const out = new URL('./public/fonts/', import.meta.url)
mkdirSync(out, { recursive: true })
const families = []
let css = ''
for (const name of FAMILIES) {
  const from = new URL(`./node_modules/@fontsource-variable/${name}/`, import.meta.url)
  const about = JSON.parse(readFileSync(new URL('metadata.json', from), 'utf8'))
  const ranges = JSON.parse(readFileSync(new URL('unicode.json', from), 'utf8'))
  const { min, max } = about.variable.wght
  const files = SUBSETS.filter((subset) => about.subsets.includes(subset)).map((subset) => ({
    name: `${name}-${subset}-wght-normal.woff2`,
    ranges: ranges[subset],
  }))
  for (const file of files) copyFileSync(new URL(`files/${file.name}`, from), new URL(file.name, out))
  // Of faces whose ranges overlap, browsers take the one declared last.
  for (const file of files.toReversed())
    css += `@font-face{font-family:"${about.family}";font-weight:${min} ${max};font-display:block;src:url("${file.name}") format("woff2");unicode-range:${file.ranges}}\n`
  families.push({ family: about.family, weights: [Number(min), Number(max)], files })
}
writeFileSync(new URL('fonts.json', out), `${JSON.stringify(families, null, 1)}\n`)
writeFileSync(new URL('fonts.css', out), css)
