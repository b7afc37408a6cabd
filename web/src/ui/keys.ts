import { useEventListener } from '@vueuse/core'
import { onMounted, onUnmounted, shallowReactive } from 'vue'

export interface KeyUse {
  key: string
  text: string
  /** A key that its field or its buttons act on by themselves has none. */
  act?: () => void
}

/** The keys of the screen that is shown and of what stands on it; `?` lists them. */
const listed = shallowReactive(new Set<() => KeyUse[]>())

/** Every key that works now, those of the screen before those of the frame around it. */
export function listedKeys(): KeyUse[] {
  return [...listed].reverse().flatMap((uses) => uses())
}

/** List keys with `?` while this part of a screen is mounted. */
export function listKeys(uses: () => KeyUse[]) {
  onMounted(() => listed.add(uses))
  onUnmounted(() => listed.delete(uses))
}

/** Give a page its keys while it is mounted. They rest while something is being typed. */
export function useKeys(uses: () => KeyUse[]) {
  useEventListener(window, 'keydown', (event: KeyboardEvent) => {
    if (event.ctrlKey || event.altKey || event.metaKey || event.repeat || isTyping(event)) return
    const use = uses().find(({ key }) => key.toLowerCase() === event.key.toLowerCase())
    if (!use?.act) return
    event.preventDefault()
    use.act()
  })
  listKeys(uses)
}

/** True while the key belongs to a field, an open dialog or a focused control. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement
  if (target.closest('input, textarea, select, [contenteditable]')) return true
  if (document.querySelector('.v-overlay--active .leaf')) return true
  return event.key === 'Enter' && target.closest('button, a') !== null
}
