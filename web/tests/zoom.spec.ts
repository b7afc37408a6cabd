import { describe, expect, it } from 'vitest'
import { nextTick, ref } from 'vue'
import { useZoom } from '@/ui/zoom'

const WHOLE = { x: 0, y: 0, width: 1000, height: 500 }

describe('zooming into a drawing', () => {
  it('keeps what lies under the pointer under the pointer', () => {
    const { shown, zoom } = useZoom(ref({ ...WHOLE }))
    const spot = { x: 300, y: 200 }
    const share = () => (spot.x - shown.value.x) / shown.value.width
    const before = share()
    zoom(2, spot)
    expect(shown.value.width).toBe(500)
    expect(share()).toBeCloseTo(before)
    zoom(1.5, spot)
    expect(share()).toBeCloseTo(before)
  })

  it('never leaves the drawing, and neither grows beyond it nor past twelve times', () => {
    const { shown, scale, zoom, pan } = useZoom(ref({ ...WHOLE }))
    zoom(0.1)
    expect(shown.value).toEqual(WHOLE)
    zoom(100)
    expect(scale.value).toBe(12)
    pan(-9999, 9999)
    expect(shown.value.x).toBe(0)
    expect(shown.value.y + shown.value.height).toBeCloseTo(500)
  })

  it('begins anew when another drawing is shown', async () => {
    const whole = ref({ ...WHOLE })
    const { scale, zoom } = useZoom(whole)
    zoom(4)
    whole.value = { ...WHOLE, height: 800 }
    await nextTick()
    expect(scale.value).toBe(1)
  })
})
