import { onScopeDispose, ref, watch, type Ref } from 'vue'
import type { LivePiece } from '@/api/client'

const TRY_AGAIN_MS = 800

/** A run as it grows. A lost socket is opened again where it stopped. */
export function useLiveRun(runId: Ref<number | null>, over: (piece: LivePiece) => void) {
  const extension = ref<number[]>([])
  const force = ref<number[]>([])
  const piece = ref<LivePiece | null>(null)
  const away = ref(false)
  let socket: WebSocket | null = null
  let timer = 0
  let samples = 0

  function open(id: number) {
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws'
    const mine = new WebSocket(`${scheme}://${location.host}/api/runs/${id}/live?first=${samples}`)
    socket = mine
    mine.onmessage = (event) => {
      const told = JSON.parse(event.data as string) as LivePiece
      away.value = false
      samples = told.samples
      piece.value = told
      if (told.extension_mm.length) {
        extension.value = extension.value.concat(told.extension_mm)
        force.value = force.value.concat(told.force_n)
      }
      if (told.state !== 'running') over(told)
    }
    mine.onclose = () => {
      if (socket !== mine || (piece.value && piece.value.state !== 'running') || runId.value !== id)
        return
      away.value = true
      timer = window.setTimeout(() => open(id), TRY_AGAIN_MS)
    }
  }

  function close() {
    window.clearTimeout(timer)
    const mine = socket
    socket = null
    mine?.close()
  }

  watch(
    runId,
    (id) => {
      close()
      extension.value = []
      force.value = []
      piece.value = null
      away.value = false
      samples = 0
      if (id !== null) open(id)
    },
    { immediate: true },
  )
  onScopeDispose(close)

  return { extension, force, piece, away }
}
