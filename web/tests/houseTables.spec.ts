import { describe, expect, it } from 'vitest'
import { boxOf } from '@/jobs/pack'
import { changed, COLUMNS, newRow, optionsOf } from '@/people/labTables'

const choices = { method: ['iso-180', 'iso-37'], atmosphere: ['film-23-50'] }
const properties = { 'iso-180': ['impact'], 'iso-37': ['strength', 'strain'] }

describe('tables of the laboratory', () => {
  it('takes a figure with a comma, leaves out an empty one and keeps an odd one to be refused', () => {
    const column = COLUMNS.materials[1]!
    expect(changed({ material: 'PP' }, column, '230,5')).toEqual({
      material: 'PP',
      temperature_c: 230.5,
    })
    expect(changed({}, column, ' ')).toEqual({ temperature_c: null })
    expect(changed({}, column, 'hot')).toEqual({ temperature_c: 'hot' })
  })

  it('offers the properties of the method of a row, and forgets one of another method', () => {
    const [method, property] = COLUMNS.digits
    const row = newRow(COLUMNS.digits, choices, properties)
    expect(row).toEqual({
      method: 'iso-180',
      property: 'impact',
      decimals: null,
      significant: null,
    })
    const other = changed(row, method!, 'iso-37')
    expect(other.property).toBe('')
    expect(optionsOf(property!, other, choices, properties)).toEqual(['strength', 'strain'])
  })
})

describe('a pack', () => {
  it('is drawn in its proportions, or not at all', () => {
    const box = boxOf(400, 300, 200)!
    expect(box.faces.map((face) => face.number)).toEqual([1, 5, 4])
    const near = box.faces[1]!.points.split(' ').map((spot) => spot.split(',').map(Number))
    expect(near[3]![1]).toBeCloseTo(-75)
    expect(boxOf(400, 0, 200)).toBeNull()
    expect(boxOf(400, Number.NaN, 200)).toBeNull()
  })
})
