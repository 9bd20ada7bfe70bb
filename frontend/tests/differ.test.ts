import { describe, expect, it } from 'vitest'
import { differ, type Piece } from '@/common/differ'

const text = (pieces: Piece[]) => pieces.map((it) => it.text).join('')
const shown = (pieces: Piece[]) => pieces.map((it) => (it.differs ? `[${it.text}]` : it.text)).join('')
const both = (a: string, b: string) => differ(a, b).map(shown)

describe('differing letters', () => {
  it('marks nothing when both say the same', () => {
    expect(both('Winter survival of colonies', 'Winter survival of colonies')).toEqual([
      'Winter survival of colonies',
      'Winter survival of colonies',
    ])
  })

  it('marks only the letters within a word', () => {
    expect(both('Insulated hive', 'Insulating hive')).toEqual(['Insulat[ed] hive', 'Insulat[ing] hive'])
    expect(both('phase 2 trial', 'phase 3 trial')).toEqual(['phase [2] trial', 'phase [3] trial'])
  })

  it('marks what one side has more', () => {
    expect(both('Lids: a trial', 'Lids')).toEqual(['Lids[: a trial]', 'Lids'])
    expect(both('', 'Lids')).toEqual(['', '[Lids]'])
  })

  it('knows signs from words, and accents from none', () => {
    expect(both('Müller, A.', 'Muller, A')).toEqual(['M[ü]ller, A[.]', 'M[u]ller, A'])
  })

  it('gives back both texts whole, whatever they are, the same letters unmarked on either side', () => {
    const letters = 'ab, é\n'
    let seed = 7
    const random = (n: number) => (seed = (seed * 48271) % 2147483647) % n
    for (let round = 0; round < 300; round++) {
      const [a, b] = [0, 1].map(() =>
        Array.from({ length: random(14) }, () => letters[random(letters.length)]).join(''),
      ) as [string, string]
      const [left, right] = differ(a, b)
      expect(text(left)).toBe(a)
      expect(text(right)).toBe(b)
      const same = (pieces: Piece[]) => text(pieces.filter((it) => !it.differs))
      expect(same(left)).toBe(same(right))
    }
  })
})
