import { useWebSocket } from '@vueuse/core'
import { ref, shallowRef, watch, type Ref } from 'vue'
import type { LivePiece } from '@/api/client'

const TRY_AGAIN_MS = 800

/** A run as it grows. A lost socket is opened again where it stopped. */
export function useLiveRun(runId: Ref<number | null>, over: (piece: LivePiece) => void) {
  const x = shallowRef<number[]>([])
  const y = shallowRef<number[]>([])
  const piece = ref<LivePiece | null>(null)
  const away = ref(false)
  let samples = 0

  function address(): string | undefined {
    if (runId.value === null) return undefined
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws'
    return `${scheme}://${location.host}/api/runs/${runId.value}/live?first=${samples}`
  }
  const isOver = () => piece.value !== null && piece.value.state !== 'running'

  const socket = useWebSocket(address, {
    immediate: false,
    autoConnect: false,
    autoReconnect: { retries: () => !isOver() && runId.value !== null, delay: TRY_AGAIN_MS },
    onMessage: (_, event) => take(JSON.parse(event.data as string) as LivePiece),
    onDisconnected: () => {
      if (!isOver() && runId.value !== null) away.value = true
    },
  })

  function take(news: LivePiece) {
    away.value = false
    samples = news.samples
    piece.value = news
    if (news.x.length) {
      x.value = x.value.concat(news.x)
      y.value = y.value.concat(news.y)
    }
    if (news.state !== 'running') over(news)
  }

  watch(
    runId,
    (id) => {
      socket.close()
      x.value = []
      y.value = []
      piece.value = null
      away.value = false
      samples = 0
      if (id !== null) socket.open()
    },
    { immediate: true },
  )

  return { x, y, piece, away }
}
