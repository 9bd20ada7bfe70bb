// Every screen has a guide, and every guide says the keys that its screen has.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { FIRST, GUIDES } from '@/common/guide'

const router = readFileSync('src/router.ts', 'utf8')
const views = [...router.matchAll(/import\('@\/(.*?\.vue)'\),[\s\S]*?title: '([^']+)'/g)].map(([, file, title]) => [
  file!,
  title!,
])
const WITHOUT = ['Sign in', 'An invitation', 'Fields in all states', 'Not here']
const NAMED: Record<string, string> = {
  ArrowUp: '↑ ↓',
  ArrowDown: '↑ ↓',
  ArrowLeft: '← →',
  ArrowRight: '← →',
  ' ': 'Space',
  Escape: 'Esc',
}

/** The keys that a view listens to. */
const keysOf = (file: string) => {
  const source = readFileSync(join('src', file), 'utf8')
  const block = /useKeys\(\{((?:\n {2}.*)+\n| .* )\}\)\n/.exec(source)?.[1] ?? ''
  const entries = block.includes('\n') ? block.split(/\n {2}(?! )/) : block.split(/, (?=\S+: )/)
  return entries.flatMap((entry) => /^\s*'?([^':.]+)'?: /.exec(entry)?.[1] ?? []).filter((key) => !/^Page/.test(key))
}

describe('The guide', () => {
  it('tells what one does on every screen', () => {
    const told = views.filter(([, title]) => !WITHOUT.includes(title!))
    expect(told.length).toBeGreaterThan(30)
    expect(told.filter(([, title]) => !GUIDES[title!]?.what.length)).toEqual([])
    expect(Object.keys(GUIDES).filter((title) => !views.some(([, other]) => other === title))).toEqual([])
  })

  it.each(views.filter(([file]) => keysOf(file!).length))('of %s (%s) has its keys', (file, title) => {
    const told = (GUIDES[title]?.keys ?? []).map(([key]) => key).join(' · ')
    for (const key of keysOf(file)) expect(told).toContain(NAMED[key] ?? (key.length === 1 ? key.toUpperCase() : key))
  })

  it('has a first step for every stage', () => {
    const stages = new Set([...router.matchAll(/stage: '(\w+)'/g)].map(([, stage]) => stage))
    expect(Object.keys(FIRST).sort()).toEqual([...stages].sort())
  })
})
