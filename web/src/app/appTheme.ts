import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { computed, watchEffect } from 'vue'
import { useTheme } from 'vuetify'

type Name = 'light' | 'dark'

/** The theme: as the system prefers, until somebody chooses on this computer. */
export function useAppTheme() {
  const theme = useTheme()
  const prefersDark = usePreferredDark()
  const chosen = useLocalStorage<Name | ''>('theme', '')
  const name = computed<Name>(() => chosen.value || (prefersDark.value ? 'dark' : 'light'))
  watchEffect(() => void theme.change(name.value))
  const other = computed<Name>(() => (name.value === 'dark' ? 'light' : 'dark'))
  return { name, other, flip: () => (chosen.value = other.value) }
}
