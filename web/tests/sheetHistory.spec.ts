import { beforeEach, expect, it } from 'vitest'
import { useSheetHistory } from '@/cutting/sheetHistory'
import { Refused, serve, type Sent } from './serve'

const PATHS = ['/api/jobs/3/sheet/layout', '/api/jobs/3/sheet/areas']
let sent: Sent[] = []
let refuse = false

const specimen = (id: number, x_mm: number) => ({
  id,
  x_mm,
  y_mm: 5,
  long_side: 'warp',
  locked: false,
})
const sheet = (revision: number, places: number[], avoided: object[] = []) =>
  ({ revision, specimens: places.map((x, place) => specimen(place + 1, x)), avoided }) as never

const answer = ({ body }: Sent) =>
  refuse
    ? new Refused('someone was first')
    : { revision: (body as { revision: number }).revision + 1 }

beforeEach(() => {
  refuse = false
  sent = serve(Object.fromEntries(PATHS.map((path) => [`PUT ${path}`, answer])))
})

it('sends only what lies elsewhere now', async () => {
  const history = useSheetHistory(3)
  history.remember(sheet(1, [10, 20, 30]))
  await history.takeBack(sheet(2, [10, 99, 30]))
  expect(sent).toHaveLength(1)
  expect(sent[0]!.body).toMatchObject({ revision: 2, laid: [{ specimen_id: 2, x_mm: 20 }] })
  expect(history.canTakeBack.value).toBe(false)
})

it('puts areas back first, and lays with the revision that came of it', async () => {
  const history = useSheetHistory(3)
  history.remember(sheet(1, [10]))
  const crease = { reason: 'crease', corners: [{ x: 0, y: 0 }] }
  await history.takeBack(sheet(2, [15], [crease]))
  expect(sent.map(({ to }) => to.split('/').pop())).toEqual(['areas', 'layout'])
  expect(sent[1]!.body).toMatchObject({ revision: 3 })
})

it('keeps the step when the server refuses, and sends nothing without one', async () => {
  const history = useSheetHistory(3)
  await history.takeBack(sheet(1, [10]))
  expect(sent).toEqual([])
  history.remember(sheet(1, [10]))
  refuse = true
  await expect(history.takeBack(sheet(2, [11]))).rejects.toThrow('someone was first')
  expect(history.canTakeBack.value).toBe(true)
})

it('remembers fifty steps and no more', async () => {
  const history = useSheetHistory(3)
  for (let step = 0; step < 60; step++) history.remember(sheet(step, [step]))
  let taken = 0
  while (history.canTakeBack.value) {
    await history.takeBack(sheet(100, [-1]))
    taken++
  }
  expect(taken).toBe(50)
})
