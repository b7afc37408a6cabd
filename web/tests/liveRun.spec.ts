import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'
import { useLiveRun } from '@/bench/liveRun'

class FakeSocket {
  static all: FakeSocket[] = []
  static OPEN = 1
  readyState = 0
  onopen: (() => void) | null = null
  onclose: ((event: unknown) => void) | null = null
  onmessage: ((event: { data: string }) => void) | null = null
  onerror: (() => void) | null = null
  constructor(readonly url: string) {
    FakeSocket.all.push(this)
  }
  send() {}
  close() {
    this.readyState = 3
  }
  say(piece: object) {
    this.onmessage?.({
      data: JSON.stringify({ line: 'up', x: [], y: [], ...piece }),
    })
  }
  lose() {
    this.readyState = 3
    this.onclose?.({ code: 1006 })
  }
}

beforeEach(() => {
  FakeSocket.all = []
  vi.useFakeTimers()
  vi.stubGlobal('WebSocket', FakeSocket)
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

function following(id: number | null) {
  const runId = ref(id)
  const over = vi.fn()
  const scope = effectScope()
  const live = scope.run(() => useLiveRun(runId, over))!
  return { runId, over, scope, live }
}

it('grows, and goes on where it stopped when the line comes back', async () => {
  const { live, over } = following(5)
  expect(FakeSocket.all[0]!.url).toContain('/api/runs/5/live?first=0')
  FakeSocket.all[0]!.say({ state: 'running', samples: 2, x: [0, 1], y: [0, 9] })
  FakeSocket.all[0]!.lose()
  expect(live.away.value).toBe(true)
  await vi.advanceTimersByTimeAsync(1000)
  expect(FakeSocket.all[1]!.url).toContain('first=2')
  FakeSocket.all[1]!.say({ state: 'running', samples: 3, x: [2], y: [8] })
  expect(live.away.value).toBe(false)
  expect(live.x.value).toEqual([0, 1, 2])
  expect(live.y.value).toEqual([0, 9, 8])
  expect(over).not.toHaveBeenCalled()
})

it('ends once, and opens no socket any more', async () => {
  const { over } = following(5)
  FakeSocket.all[0]!.say({ state: 'ended', samples: 2 })
  FakeSocket.all[0]!.lose()
  await vi.advanceTimersByTimeAsync(5000)
  expect(over).toHaveBeenCalledTimes(1)
  expect(FakeSocket.all).toHaveLength(1)
})

it('begins anew with another run, and follows none without one', async () => {
  const { runId, live } = following(null)
  expect(FakeSocket.all).toHaveLength(0)
  runId.value = 6
  await nextTick()
  FakeSocket.all[0]!.say({ state: 'running', samples: 1, x: [4], y: [4] })
  runId.value = 7
  await nextTick()
  expect(live.x.value).toEqual([])
  expect(FakeSocket.all[1]!.url).toContain('/api/runs/7/live?first=0')
})
