// Keys of a view: active while it is shown, silent while somebody types.
import { useEventListener } from '@vueuse/core'

export type Keys = Record<string, (event: KeyboardEvent) => void>

function typing(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
}

function onControl(event: KeyboardEvent): boolean {
  const target = event.target
  return (
    target instanceof HTMLElement &&
    (event.key === 'Enter' || event.key === ' ') &&
    target.closest('button, a, summary, [role=button], [role=menuitem], [role=option], [role=tab]') !== null
  )
}

export function useKeys(keys: Keys) {
  function pressed(event: KeyboardEvent) {
    if (event.ctrlKey || event.metaKey || event.altKey || event.isComposing || event.defaultPrevented) return
    if (typing(event.target) || onControl(event)) return
    if (document.querySelector('.v-overlay--active:not(.v-tooltip)')) return
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key
    const act = keys[key]
    if (act) {
      event.preventDefault()
      act(event)
    }
  }
  useEventListener(window, 'keydown', pressed)
}
