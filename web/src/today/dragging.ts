import { ref } from 'vue'
import type { Block } from '@/today/today'

/** Less than this share of the lane, in percent, is a press and no drag. */
const MIN_DRAG = 0.6

/** A block that is dragged along its lane; `dropped` is given how far, in percent, and 0 for a press. */
export function useDragging(
  keyOf: (block: Block) => string,
  dropped: (block: Block, by: number) => void,
) {
  const dragged = ref<{ key: string; by: number } | null>(null)
  let grip: { x: number; wide: number } | null = null
  let isDropped = false

  function take(event: PointerEvent, block: Block) {
    const target = event.currentTarget as HTMLElement
    if (block.test_id === null) return
    grip = { x: event.clientX, wide: target.parentElement!.clientWidth || 1 }
    target.setPointerCapture(event.pointerId)
    dragged.value = { key: keyOf(block), by: 0 }
  }
  function move(event: PointerEvent) {
    if (dragged.value && grip) dragged.value.by = (100 * (event.clientX - grip.x)) / grip.wide
  }
  function drop(block: Block) {
    const by = dragged.value?.by ?? 0
    dragged.value = null
    grip = null
    isDropped = Math.abs(by) >= MIN_DRAG
    if (isDropped) dropped(block, by)
  }
  /** The browser ends a drag with a click, which is no press. */
  function press(block: Block) {
    if (!isDropped) dropped(block, 0)
    isDropped = false
  }
  const shiftOf = (block: Block) => (dragged.value?.key === keyOf(block) ? dragged.value.by : 0)
  return { take, move, drop, press, shiftOf }
}
