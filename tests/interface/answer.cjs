// Answers one call a line: {"file", "name", "given"} -> {"gives"} or {"throws"}. A set travels as {"set": [...]}, a map as {"map": [[key, value], ...]}.
const { createInterface } = require('node:readline')
const { join } = require('node:path')

const folder = process.argv[2]
const revive = (_, value) => {
  const only = value && typeof value === 'object' ? Object.keys(value).join() : ''
  return only === 'set' ? new Set(value.set) : only === 'map' ? new Map(value.map) : value
}
const tell = (_, value) => (value instanceof Set ? { set: [...value] } : value)

createInterface({ input: process.stdin }).on('line', (line) => {
  let answer
  try {
    const { file, name, given } = JSON.parse(line, revive)
    answer = { gives: require(join(folder, file))[name](...given) ?? null }
  } catch (error) {
    answer = { throws: String(error) }
  }
  process.stdout.write(`${JSON.stringify(answer, tell)}\n`)
})
