import { useQuery } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref } from 'vue'
import { ask, client } from '@/api/client'

const offset = ref(0)
const tick = ref(Date.now())
let watchers = 0
let timer = 0

/** The server's time, once a second, so that a wrong clock at a desk does no harm. */
export function useNow() {
  if (watchers++ === 0) timer = window.setInterval(() => (tick.value = Date.now()), 1000)
  onScopeDispose(() => {
    if (--watchers === 0) window.clearInterval(timer)
  })
  return computed(() => tick.value + offset.value)
}

/** Every running clock of the laboratory. */
export function useClocks() {
  return useQuery({
    queryKey: ['clocks'],
    queryFn: async () => {
      const told = await ask(client.GET('/api/clocks'))
      offset.value = Date.parse(told.now) - Date.now()
      return told
    },
    refetchInterval: 10_000,
  })
}
