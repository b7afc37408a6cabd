import { describe, expect, it } from 'vitest'
import { barsOf, idsOf } from '@/conditioning/groups'
import { boxOf } from '@/jobs/pack'
import { variantsOf } from '@/jobs/variants'

const typed = (changes: object) => ({
  key: 1,
  name: 'A',
  lot: '',
  size: '',
  without: [],
  ...changes,
})

describe('several samples of one request', () => {
  it('have each its own size by the form, and all tests that were not left out', () => {
    const rows = [
      typed({ name: 'raw', size: '1500', lot: ' L-1 ' }),
      typed({ key: 2, name: 'washed', without: [20] }),
      typed({ key: 3, name: '  ' }),
    ]
    expect(variantsOf(rows, 'sheet', [10, 20])).toEqual([
      { name: 'raw', lot: 'L-1', length_mm: 1500, tests: [0, 1] },
      { name: 'washed', lot: null, tests: [0] },
    ])
    expect(variantsOf([rows[0]!], 'granules', [10])[0]).toMatchObject({ mass_g: 1500 })
    expect(variantsOf([rows[0]!], 'packs', [10])[0]).toMatchObject({ count: 1500 })
  })
})

describe('a box', () => {
  it('shows its top, near end and left side, numbered', () => {
    const box = boxOf(400, 300, 200)!
    expect(box.faces.map((face) => face.number)).toEqual([1, 5, 4])
    expect(box.wide).toBeGreaterThan(box.high * 0.5)
    for (const face of box.faces) expect(face.points.split(' ')).toHaveLength(4)
  })

  it('is not drawn without three sizes', () => {
    expect(boxOf(400, 0, 200)).toBeNull()
    expect(boxOf(400, Number.NaN, 200)).toBeNull()
  })

  it('is drawn no larger than its place, whatever its size', () => {
    const small = boxOf(4, 3, 2)!
    const large = boxOf(4000, 3000, 2000)!
    expect(small.wide).toBeCloseTo(large.wide)
  })
})

describe('what was placed together', () => {
  const group = (job_id: number, count: number, placed_at = 'at eight') => ({
    job_id,
    job_number: `J-${job_id}`,
    product: 'Cloth',
    placed_at,
    runs_out_at: 'tomorrow',
    ready: false,
    specimens: Array.from({ length: count }, (_, id) => ({ id })),
  })

  it('is one bar a job and moment, with how many there are', () => {
    const bars = barsOf([group(1, 3), group(1, 2), group(2, 1), group(1, 1, 'at nine')] as never)
    expect(bars.map(({ name, count }) => [name, count])).toEqual([
      ['J-1 Cloth, 5', 5],
      ['J-2 Cloth, 1', 1],
      ['J-1 Cloth, 1', 1],
    ])
  })

  it('is placed by the ids of its specimens', () => {
    expect(idsOf(group(1, 2) as never)).toEqual([0, 1])
  })
})
