import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useKeys } from '@/common/keys'
import { mounted, type Mounted } from './mounted'

const include = vi.fn()
let page: Mounted<void>

function press(key: string, target: EventTarget = document.body, held: KeyboardEventInit = {}) {
  target.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...held }))
}
function put(html: string): HTMLElement {
  document.body.innerHTML = html
  return document.body.firstElementChild as HTMLElement
}

beforeEach(async () => {
  include.mockClear()
  page = await mounted(() => useKeys({ i: include, Enter: include }))
})
afterEach(() => {
  page.app.unmount()
  document.body.innerHTML = ''
})

describe('keys of a view', () => {
  it('act in either case, and on special keys', () => {
    press('i')
    press('I')
    press('Enter')
    expect(include).toHaveBeenCalledTimes(3)
  })

  it('are silent while somebody types', () => {
    press('i', put('<input>'))
    press('i', put('<textarea></textarea>'))
    expect(include).not.toHaveBeenCalled()
  })

  it('leave the keys of the browser and of buttons alone', () => {
    press('i', document.body, { ctrlKey: true })
    press('i', document.body, { altKey: true })
    press('Enter', put('<button>Save</button>'))
    expect(include).not.toHaveBeenCalled()
    press('i', put('<button>Save</button>'))
    expect(include).toHaveBeenCalledTimes(1)
  })

  it('are silent under a dialog, but not under a message', () => {
    put('<div class="v-overlay--active"></div>')
    press('i')
    expect(include).not.toHaveBeenCalled()
    put('<div class="said"><div class="message"></div></div>')
    press('i')
    expect(include).toHaveBeenCalledTimes(1)
  })

  it('end with the view', () => {
    page.app.unmount()
    press('i')
    expect(include).not.toHaveBeenCalled()
  })
})
