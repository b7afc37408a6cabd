import { describe, expect, it } from 'vitest'
import ProductTable from '@/products/ProductTable.vue'
import { button, changes, press, Refused, serve, settled, shown } from '../serve'
import { mountInKit } from './kit'

const CHANGED = {
  client: 'Quay Awnings',
  name: 'Harbour cloth',
  revision: 2,
  kind: 'changed',
  differences: ['material: woven becomes knitted'],
}
const NEW = {
  ...CHANGED,
  name: 'Sail cloth',
  revision: 0,
  kind: 'new',
  differences: ['form: added'],
}
const SAME = { ...CHANGED, name: 'Deck cloth', kind: 'unchanged', differences: [] }
const PREVIEW = 'POST /api/products/preview'
const IMPORT = 'POST /api/products/import'

async function chosen(name = 'products.csv') {
  const table = mountInKit(ProductTable)
  const field = table.find<HTMLInputElement>('input[type=file]')
  Object.defineProperty(field.element, 'files', { value: [new File(['x'], name)], writable: true })
  await field.trigger('change')
  await settled()
}

describe('a table of products', () => {
  it('shows what it would change, and is imported only then', async () => {
    const sent = serve({ [PREVIEW]: { changes: [CHANGED, NEW, SAME], refusals: [] }, [IMPORT]: [] })
    await chosen()
    expect(shown()).toContain('Preview of products.csv')
    expect(shown()).toContain('Harbour cloth Quay Awnings becomes revision 3')
    expect(shown()).toContain('material: woven becomes knitted')
    expect(shown()).toContain('Sail cloth Quay Awnings new product')
    expect(shown()).toContain('One product is unchanged.')
    expect(shown()).not.toContain('Deck cloth')
    expect(changes(sent).map((each) => each.to)).toEqual([PREVIEW])
    await press('Import products')
    await settled()
    expect(changes(sent).map((each) => each.to)).toEqual([PREVIEW, IMPORT])
    expect(shown()).not.toContain('Preview of')
  })

  it('names every cell to correct, and is not imported before that', async () => {
    const refusals = ['D4, material: The cell is empty.', 'L3, limit: “x” is no number.']
    serve({ [PREVIEW]: { changes: [CHANGED], refusals } })
    await chosen()
    expect(shown()).toContain('Correct these 2, then choose the file again:')
    expect(shown()).toContain('D4, material')
    expect(button('Import products').disabled).toBe(true)
    await press('discard')
    expect(shown()).not.toContain('Preview of')
  })

  it('has nothing to import where nothing differs', async () => {
    serve({ [PREVIEW]: { changes: [SAME], refusals: [] } })
    await chosen()
    expect(button('Import products').disabled).toBe(true)
  })

  it('says why a file cannot be read', async () => {
    serve({ [PREVIEW]: new Refused('The table has no column material.') })
    await chosen()
    expect(shown()).toContain('The table has no column material.')
    expect(shown()).not.toContain('Preview of')
  })
})
