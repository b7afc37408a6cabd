import { computed, ref, watch, type Ref } from 'vue'
import type { Spot } from '@/cutting/areas'

export interface Box {
  x: number
  y: number
  width: number
  height: number
}
const MOST = 12

/** The part of a drawing that is shown: the whole of it, or closer by the wheel and by buttons. */
export function useZoom(whole: Ref<Box>) {
  const scale = ref(1)
  const middle = ref<Spot | null>(null)
  watch(
    () => `${whole.value.width} ${whole.value.height}`,
    () => reset(),
  )

  const shown = computed<Box>(() => {
    const { x, y, width, height } = whole.value
    const size = { width: width / scale.value, height: height / scale.value }
    const at = middle.value ?? { x: x + width / 2, y: y + height / 2 }
    return {
      x: Math.min(Math.max(at.x - size.width / 2, x), x + width - size.width),
      y: Math.min(Math.max(at.y - size.height / 2, y), y + height - size.height),
      ...size,
    }
  })

  function zoom(factor: number, around?: Spot) {
    const before = shown.value
    const next = Math.min(Math.max(scale.value * factor, 1), MOST)
    const point = around ?? {
      x: before.x + before.width / 2,
      y: before.y + before.height / 2,
    }
    const share = scale.value / next
    middle.value = {
      x: point.x + (before.x + before.width / 2 - point.x) * share,
      y: point.y + (before.y + before.height / 2 - point.y) * share,
    }
    scale.value = next
  }

  function pan(dx: number, dy: number) {
    const { x, y, width, height } = shown.value
    middle.value = { x: x + width / 2 + dx, y: y + height / 2 + dy }
  }

  function reset() {
    scale.value = 1
    middle.value = null
  }

  return { shown, scale, zoom, pan, reset }
}
