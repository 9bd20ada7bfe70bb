import { afterEach, describe, expect, it, vi } from 'vitest'
import { ago, count, people, place, plural } from '@/common/format'

afterEach(() => vi.useRealTimers())

describe('numbers, people and places as they are read', () => {
  it('counts', () => {
    expect(count(1234567)).toBe('1,234,567')
    expect(plural(1, 'record')).toBe('1 record')
    expect(plural(0, 'copy', 'copies')).toBe('0 copies')
  })

  it('names the first authors by family and initials', () => {
    expect(people(['Orsel, Tamsin Ada', 'Van der Poel, J.-P.', 'Hive Working Group'])).toBe(
      'Orsel TA, Van der Poel JP, Hive Working Group',
    )
    expect(people(['A, B', 'C, D', 'E, F', 'G, H', 'I, J'])).toBe('A B, C D, E F, and 2 more')
    expect(people([])).toBe('')
  })

  it('cites the place in a journal as far as it is known', () => {
    expect(place({ volume: '12', issue: '3', pages: '101–118' })).toBe('12(3): 101–118')
    expect(place({ volume: '', issue: '', pages: 'e17' })).toBe('e17')
    expect(place({ volume: '12', issue: '', pages: '' })).toBe('12')
  })

  it('says how long ago', () => {
    vi.useFakeTimers({ now: new Date('2026-03-10T12:00:00Z') })
    expect(ago('2026-03-10T11:59:30Z')).toBe('a moment ago')
    expect(ago('2026-03-10T12:00:30Z')).toBe('a moment ago')
    expect(ago('2026-03-10T11:59:00Z')).toBe('1 minute ago')
    expect(ago('2026-03-10T09:00:00Z')).toBe('3 hours ago')
    expect(ago('2026-03-08T12:00:00Z')).toBe('2 days ago')
  })
})
