import { afterEach, describe, expect, it, vi } from 'vitest'
import { scanTaker, useScans } from '@/app/scanning'
import { addressOf, codeIn, exactly, type SearchHit } from '@/app/search'
import ScannedPage from '@/app/ScannedPage.vue'
import SearchBox from '@/app/SearchBox.vue'
import { defineComponent, h } from 'vue'
import { serve, settled } from '../serve'
import { mountInKit, unmountAll } from './kit'

const hit = (kind: SearchHit['kind'], more: Partial<SearchHit> = {}): SearchHit => ({
  kind,
  title: 'J-0404',
  text: 'Awning cloth',
  id: 7,
  name: null,
  job_id: 4,
  ...more,
})

describe('what is found', () => {
  it('leads to its place', () => {
    const named = { name: 'Quay & Sons' }
    expect(addressOf(hit('specimen'))).toBe('/bench/4?specimen=7')
    expect(addressOf(hit('job'))).toBe('/jobs/7')
    expect(addressOf(hit('report'))).toBe('/judge/4')
    expect(addressOf(hit('client', named))).toBe('/clients?name=Quay%20%26%20Sons')
    expect(addressOf(hit('product'))).toBe('/products?id=7')
    expect(addressOf(hit('instrument', { name: 'T-1' }))).toBe('/instruments?serial=T-1')
    expect(addressOf(hit('person'))).toBe('/people?id=7')
  })

  it('is taken from the address on a label, and a slash in a name is kept', () => {
    expect(codeIn(' http://lab:8420/s/J-0404-1-W1 ')).toBe('J-0404-1-W1')
    expect(codeIn('50/50 cotton')).toBe('50/50 cotton')
  })

  it('is exact for a scan, and a remainder names its job', () => {
    const near = hit('specimen', { title: 'J-0404-1-W10' })
    expect(exactly([near], 'J-0404-1-W1')).toBeUndefined()
    expect(exactly([near, hit('job')], 'j-0404-r')).toEqual(hit('job'))
    expect(exactly([hit('instrument', { title: 'Frame', name: 'T-1' })], 't-1')?.name).toBe('T-1')
  })
})

describe('the box', () => {
  afterEach(unmountAll)

  async function typed(words: string, found: SearchHit[]) {
    serve({ 'GET /api/search': found })
    const box = mountInKit(SearchBox)
    const push = vi.spyOn(box.vm.$router, 'push')
    const field = box.get('input')
    await field.trigger('focus')
    await field.setValue(words)
    await vi.waitUntil(() => box.find('.found').exists())
    await settled()
    return { box, field, push }
  }

  it('lists what the words find, and Enter opens what is marked', async () => {
    const { box, field, push } = await typed('awning', [
      hit('job'),
      hit('client', { name: 'Quay' }),
    ])
    expect(box.findAll('[role=option]')).toHaveLength(2)
    await field.trigger('keydown', { key: 'ArrowDown' })
    expect(box.get('[aria-selected=true]').text()).toContain('client')
    await box.get('form').trigger('submit')
    await settled()
    expect(push).toHaveBeenCalledWith('/clients?name=Quay')
    expect(field.element.value).toBe('')
  })

  it('says when nothing is found', async () => {
    const { box, push } = await typed('nowhere', [])
    expect(box.get('[role=status]').text()).toContain('Nothing found')
    await box.get('form').trigger('submit')
    await settled()
    expect(box.find('.refusal').exists()).toBe(false)
    expect(push).not.toHaveBeenCalled()
  })

  it('gives a scanned address to the page that takes scans', async () => {
    const taken: string[] = []
    const taker = defineComponent({
      setup: () => {
        useScans((code) => taken.push(code))
        return () => h('i')
      },
    })
    mountInKit(taker, {})
    expect(scanTaker()).not.toBeNull()
    const { box } = await typed('http://lab/s/J-0404-1-W1', [])
    await box.get('form').trigger('submit')
    expect(taken).toEqual(['J-0404-1-W1'])
  })
})

describe('a label that is scanned', () => {
  afterEach(unmountAll)

  async function scanned(code: string, found: SearchHit[]) {
    serve({ 'GET /api/search': found })
    const page = mountInKit(ScannedPage, { code })
    const replace = vi.spyOn(page.vm.$router, 'replace')
    await settled()
    return { page, replace }
  }

  it('leads to its specimen, and that of a remainder to its job', async () => {
    const specimen = hit('specimen', { title: 'J-0404-1-W1' })
    const one = await scanned('J-0404-1-W1', [specimen])
    expect(one.replace).toHaveBeenCalledWith('/bench/4?specimen=7')
    const two = await scanned('J-0404-R', [hit('job')])
    expect(two.replace).toHaveBeenCalledWith('/jobs/7')
  })

  it('says when it names nothing here', async () => {
    const { page, replace } = await scanned('J-9999-1-W1', [])
    expect(page.text()).toContain('Nothing in this laboratory has the code J-9999-1-W1.')
    expect(replace).not.toHaveBeenCalled()
  })
})
