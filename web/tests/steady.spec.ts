import { describe, expect, it } from 'vitest'
import { serverTime, wasSet } from '@/app/steady'

const heard = { server: 1_000_000, steady: 500, wall: 9_000_000 }

describe('the time at a desk', () => {
  it('is the server’s, whatever the desk’s clock says', () => {
    expect(serverTime(heard, 500)).toBe(1_000_000)
    expect(serverTime(heard, 61_500)).toBe(1_061_000)
  })

  it('is asked again once the desk’s clock was set or the desk has slept', () => {
    expect(wasSet(heard, 3500, 9_003_000)).toBe(false)
    expect(wasSet(heard, 3500, 9_004_900)).toBe(false)
    expect(wasSet(heard, 3500, 12_603_000)).toBe(true)
    expect(wasSet(heard, 3500, 5_403_000)).toBe(true)
  })
})
