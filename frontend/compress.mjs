// Lays a gzipped copy beside every built file that gains by it, so that the server sends it as it is (RFC 9110, 8.4).
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { constants, gzipSync } from 'node:zlib'

const assets = new URL('../src/sign_shelf/static/assets/', import.meta.url).pathname
for (const name of readdirSync(assets)) {
  if (!/\.(js|css|svg|json)$/.test(name)) continue
  const whole = readFileSync(join(assets, name))
  const packed = gzipSync(whole, { level: constants.Z_BEST_COMPRESSION })
  if (packed.length < whole.length * 0.9) writeFileSync(join(assets, `${name}.gz`), packed)
}
