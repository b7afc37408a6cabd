import { useQuery } from '@tanstack/vue-query'
import { createSharedComposable, useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { ask, client } from '@/api/client'

const offset = ref(0)

const useTick = createSharedComposable(() => {
  const tick = ref(Date.now())
  useIntervalFn(() => (tick.value = Date.now()), 1000)
  return tick
})

/** The server's time, once a second, so that a wrong clock at a desk does no harm. */
export function useNow() {
  const tick = useTick()
  return computed(() => tick.value + offset.value)
}

/** Every running clock of the laboratory. */
export function useClocks() {
  return useQuery({
    queryKey: ['clocks'],
    queryFn: async () => {
      const answer = await ask(client.GET('/api/clocks'))
      offset.value = Date.parse(answer.now) - Date.now()
      return answer
    },
  })
}
