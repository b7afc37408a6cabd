import { onMounted, onUnmounted } from 'vue'

type Taker = (code: string) => void
let taker: Taker | null = null

/** While a page is shown, what is scanned on it is given to it and does not lead away. */
export function useScans(take: Taker) {
  onMounted(() => (taker = take))
  onUnmounted(() => {
    if (taker === take) taker = null
  })
}

/** The page that takes scans now; null where a scan leads to its specimen. */
export function scanTaker(): Taker | null {
  return taker
}
