import { beforeEach, describe, expect, it } from 'vitest'
import { ref } from 'vue'
import { asClipboard, cellsOf, useSelection } from '@/stages/chart/grid'

describe('the clipboard of a spreadsheet', () => {
  it('is read by rows and columns', () => {
    expect(cellsOf('a\tb\r\nc\t\r\n')).toEqual([
      ['a', 'b'],
      ['c', ''],
    ])
    expect(cellsOf('alone')).toEqual([['alone']])
    expect(cellsOf('')).toEqual([['']])
  })

  it('may hold tabs, line breaks and quotes inside quotes', () => {
    expect(cellsOf('"two\nlines"\t"a ""word"""\t5" pipe')).toEqual([['two\nlines', 'a "word"', '5" pipe']])
  })

  it('is read again as it was written', () => {
    const rows = [
      ['plain', 'with\ttab', 'with\nbreak'],
      ['"quoted"', '', ' blank '],
    ]
    expect(cellsOf(asClipboard(rows))).toEqual(rows)
  })
})

describe('the selection', () => {
  const rows = ref(20)
  const columns = ref(4)
  let grid: ReturnType<typeof useSelection>
  const press = (key: string, held: Partial<KeyboardEvent> = {}) =>
    grid.moved({ key, ctrlKey: false, metaKey: false, shiftKey: false, ...held } as KeyboardEvent)
  const at = () => [grid.at.row, grid.at.column]
  beforeEach(() => {
    grid = useSelection(rows, columns)
  })

  it('moves by arrows and stops at the edges', () => {
    press('ArrowUp')
    expect(at()).toEqual([0, 0])
    press('ArrowDown')
    press('ArrowRight')
    expect(at()).toEqual([1, 1])
    press('ArrowRight', { ctrlKey: true })
    press('ArrowDown', { metaKey: true })
    expect(at()).toEqual([19, 3])
    press('PageUp')
    expect(at()).toEqual([4, 3])
  })

  it('goes to the ends of a row and of the table', () => {
    grid.go(5, 2)
    press('Home')
    expect(at()).toEqual([5, 0])
    press('End', { ctrlKey: true })
    expect(at()).toEqual([19, 3])
    press('Home', { ctrlKey: true })
    expect(at()).toEqual([0, 0])
  })

  it('grows with shift, from where it began, in any direction', () => {
    grid.go(5, 2)
    press('ArrowUp', { shiftKey: true })
    press('ArrowLeft', { shiftKey: true })
    expect(grid.range.value).toEqual({ top: 4, bottom: 5, left: 1, right: 2 })
    expect(grid.holds(4, 1)).toBe(true)
    expect(grid.holds(5, 3)).toBe(false)
    press('ArrowDown')
    expect(grid.range.value).toEqual({ top: 5, bottom: 5, left: 1, right: 1 })
  })

  it('lets Tab leave the table at its ends, and other keys alone', () => {
    expect(press('Tab')).toBe(true)
    expect(at()).toEqual([0, 1])
    grid.go(0, 3)
    expect(press('Tab')).toBe(false)
    grid.go(0, 0)
    expect(press('Tab', { shiftKey: true })).toBe(false)
    expect(press('x')).toBe(false)
  })
})
