import { describe, expect, it } from 'vitest'
import { useFilter } from '@/common/filter'
import { mounted } from './mounted'

describe('a filter lives in the address', () => {
  it('is read from it, with the defaults of its view', async () => {
    const { it: use } = await mounted(
      () => useFilter({ list: 'open' }),
      '/screen?words=winter+-wasp&year_from=1990&abstract=no',
    )
    expect(use.filter.value.list).toBe('open')
    expect(use.narrowed.value).toBe(3)
    expect(use.query.value).toEqual({
      list: 'open',
      source: undefined,
      year_from: 1990,
      year_to: undefined,
      abstract: false,
      words: 'winter -wasp',
      verdict: undefined,
    })
  })

  it('keeps what it does not know, leaves out what is default or empty', async () => {
    const { it: use, router } = await mounted(() => useFilter({ list: 'open' }), '/screen?record=7&source=Vitalis')
    await use.set({ list: 'open', source: '', words: 'lid' })
    expect(router.currentRoute.value.query).toEqual({ record: '7', words: 'lid' })
    await use.set({ list: 'excluded' })
    expect(use.filter.value.list).toBe('excluded')
    await use.clear()
    expect(router.currentRoute.value.query).toEqual({ record: '7', list: 'excluded' })
  })

  it('takes no nonsense for a year', async () => {
    const { it: use } = await mounted(() => useFilter({}), '/records?year_from=soon&abstract=yes')
    expect(use.query.value.year_from).toBeUndefined()
    expect(use.query.value.abstract).toBe(true)
  })
})
