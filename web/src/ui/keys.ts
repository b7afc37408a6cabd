import { useEventListener } from '@vueuse/core'
import { onMounted, onUnmounted, ref } from 'vue'

export interface KeyUse {
  key: string
  text: string
  act: () => void
}

/** The keys of the screen that is shown; `?` lists them. */
const pageKeys = ref<() => KeyUse[]>(() => [])

export function listedKeys(): KeyUse[] {
  return pageKeys.value()
}

/** Give a page its keys while it is mounted. They rest while something is being typed. */
export function useKeys(uses: () => KeyUse[]) {
  useEventListener(window, 'keydown', (event: KeyboardEvent) => {
    if (event.ctrlKey || event.altKey || event.metaKey || event.repeat || isTyping(event)) return
    const use = uses().find(({ key }) => key.toLowerCase() === event.key.toLowerCase())
    if (!use) return
    event.preventDefault()
    use.act()
  })
  onMounted(() => (pageKeys.value = uses))
  onUnmounted(() => {
    if (pageKeys.value === uses) pageKeys.value = () => []
  })
}

/** True while the key belongs to a field, an open dialog or a focused control. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement
  if (target.closest('input, textarea, select, [contenteditable]')) return true
  if (document.querySelector('.v-overlay--active .leaf')) return true
  return event.key === 'Enter' && target.closest('button, a') !== null
}
