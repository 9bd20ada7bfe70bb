// Writes what components' scripts say into files of their own, on the same lines, for Oxlint, which sees no types in components.
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { dirname } from 'node:path'
import { parse } from 'vue/compiler-sfc'

rmSync('.scripts', { recursive: true, force: true })
for (const name of readdirSync('src', { recursive: true }).filter((it) => it.endsWith('.vue'))) {
  const { scriptSetup } = parse(readFileSync(`src/${name}`, 'utf8')).descriptor
  const to = `.scripts/src/${name}.ts`
  mkdirSync(dirname(to), { recursive: true })
  if (scriptSetup) writeFileSync(to, '\n'.repeat(scriptSetup.loc.start.line - 1) + scriptSetup.content)
}
const paths = { '@/*': ['../src/*', './src/*'] }
writeFileSync(
  '.scripts/tsconfig.json',
  JSON.stringify({
    extends: '../tsconfig.json',
    compilerOptions: { rootDirs: ['../src', 'src'], paths },
    include: ['src', '../src'],
  }),
)
