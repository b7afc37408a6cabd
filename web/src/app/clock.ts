import { useQuery } from '@tanstack/vue-query'
import { createSharedComposable, useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { ask, client } from '@/api/client'
import { serverTime, wasSet, type Heard } from '@/app/steady'

const listen = (server: number): Heard => ({
  server,
  steady: performance.now(),
  wall: Date.now(),
})
const heard = ref(listen(Date.now()))

const useTick = createSharedComposable(() => {
  const tick = ref(performance.now())
  useIntervalFn(() => (tick.value = performance.now()), 1000)
  return tick
})

/** The server's time as this desk knows it now. */
export function serverNow(): number {
  return serverTime(heard.value, performance.now())
}

/** The server's time, once a second: a wrong clock at a desk, or one that is set, does no harm. */
export function useNow() {
  const tick = useTick()
  return computed(() => serverTime(heard.value, Math.max(tick.value, heard.value.steady)))
}

/** Every running clock of the laboratory. */
export function useClocks() {
  const clocks = useQuery({
    queryKey: ['clocks'],
    queryFn: async () => {
      const answer = await ask(client.GET('/api/clocks'))
      heard.value = listen(Date.parse(answer.now))
      return answer
    },
  })
  useIntervalFn(() => {
    if (!wasSet(heard.value, performance.now(), Date.now())) return
    heard.value = { ...heard.value, wall: Date.now() - (performance.now() - heard.value.steady) }
    void clocks.refetch()
  }, 1000)
  return clocks
}
