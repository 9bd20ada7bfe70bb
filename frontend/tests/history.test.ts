// Whatever the server writes into the history is said in words there.
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, it } from 'vitest'

const WORK = '../src/kettlesort/work'
const said = readFileSync('src/stages/report/History.vue', 'utf8')
const kinds = readdirSync(WORK)
  .filter((name) => name.endsWith('.py'))
  .flatMap((name) => [
    ...readFileSync(join(WORK, name), 'utf8').matchAll(/"((?:plan|gather|match|screen|chart)\.[a-z_]+)"/g),
  ])
  .map(([, kind]) => kind!)

it('has words for every kind of event', () => {
  expect(new Set(kinds).size).toBeGreaterThan(40)
  expect([...new Set(kinds)].filter((kind) => !said.includes(`'${kind}'`))).toEqual([])
})
