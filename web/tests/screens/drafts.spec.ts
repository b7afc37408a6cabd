import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { effectScope, nextTick, reactive } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'
import { askBeforeLeaving, leaveQuestion } from '@/app/leaving'
import CheckDialog from '@/instruments/CheckDialog.vue'
import DraftNote from '@/ui/DraftNote.vue'
import { forgetOthersDrafts, isAnythingUnsaved, ownDrafts, useDraftOf } from '@/ui/drafts'
import { mountInKit } from './kit'
import { field, fill, press, settled } from '../serve'

const INES = 1
const MAREN = 2
type Entries = { lot: string; tests: string[] }

/** A form as a page opens it: what is typed, its draft, and what ends it as a reload does. */
function opened(name = 'sample') {
  const scope = effectScope()
  const typed = reactive<Entries>({ lot: '', tests: [] })
  const draft = scope.run(() => useDraftOf(() => name, typed))!
  draft.begin()
  return { typed, draft, gone: () => scope.stop() }
}

/** Another tab of the browser: it shares what is kept, and has no place of its own yet. */
const inAnotherTab = () => sessionStorage.clear()

beforeEach(() => {
  localStorage.clear()
  sessionStorage.clear()
  ownDrafts(INES)
})

describe('what is typed and not saved', () => {
  it('is there again after a reload, with the time it was typed', async () => {
    const before = opened()
    before.typed.lot = 'W-17'
    before.typed.tests.push('iso-13937-2')
    await nextTick()
    before.gone()
    const { typed, draft, gone } = opened()
    expect(typed).toEqual({ lot: 'W-17', tests: ['iso-13937-2'] })
    expect(Date.now() - Date.parse(draft.restoredAt.value!)).toBeLessThan(60_000)
    gone()
  })

  it('is gone once it is saved, discarded, or typed back to what it was', async () => {
    const leaves: ((form: ReturnType<typeof opened>) => void)[] = [
      (form) => form.draft.saved(),
      (form) => form.draft.discard(),
      (form) => (form.typed.lot = ''),
    ]
    for (const leave of leaves) {
      const form = opened()
      form.typed.lot = 'W-17'
      await nextTick()
      leave(form)
      await nextTick()
      expect(form.draft.isUnsaved()).toBe(false)
      form.gone()
      const later = opened()
      expect(later.typed.lot).toBe('')
      expect(later.draft.restoredAt.value).toBeNull()
      later.gone()
    }
  })

  it('goes back to the empty form when it is discarded after a reload', async () => {
    const before = opened()
    before.typed.lot = 'W-17'
    await nextTick()
    before.gone()
    const { typed, draft, gone } = opened()
    const note = mountInKit(DraftNote, { draft })
    await note.get('button').trigger('click')
    expect(typed).toEqual({ lot: '', tests: [] })
    expect(localStorage.length).toBe(0)
    gone()
  })

  it('moves to a tab that is opened later, and two tabs do not overwrite each other', async () => {
    const first = opened()
    first.typed.lot = 'W-17'
    await nextTick()
    inAnotherTab()
    const second = opened()
    expect(second.typed.lot).toBe('W-17')
    second.typed.lot = 'W-18'
    first.typed.lot = 'W-17b'
    await nextTick()
    const kept = Object.keys(localStorage).map(
      (key) => (JSON.parse(localStorage.getItem(key)!) as { typed: Entries }).typed.lot,
    )
    expect(kept.sort()).toEqual(['W-17b', 'W-18'])
    second.draft.saved()
    expect(localStorage.length).toBe(1)
    first.gone()
    second.gone()
  })

  it('is shown to nobody else, and forgotten when another person signs out', async () => {
    const form = opened()
    form.typed.lot = 'W-17'
    await nextTick()
    form.gone()
    ownDrafts(MAREN)
    const other = opened()
    expect(other.typed.lot).toBe('')
    other.gone()
    forgetOthersDrafts(INES)
    expect(localStorage.length).toBe(1)
    forgetOthersDrafts(MAREN)
    expect(localStorage.length).toBe(0)
  })

  it('is forgotten after a fortnight, and rubbish in its place is nothing', () => {
    const at = new Date(Date.now() - 15 * 24 * 3600 * 1000).toISOString()
    localStorage.setItem('draft/1/sample/x', JSON.stringify({ at, typed: { lot: 'old' } }))
    localStorage.setItem('draft/1/room/x', '{"at": ')
    ownDrafts(INES)
    expect(localStorage.length).toBe(0)
  })
})

describe('a dialog', () => {
  it('keeps its entries when it is closed by Escape, and drops them when it is cancelled', async () => {
    const instrument = { serial: 'BAL-1', name: 'Balance', station: null, unit: 'g' }
    const dialog = mountInKit(CheckDialog, { instrument, modelValue: false })
    const show = async (modelValue: boolean) => {
      await dialog.setProps({ modelValue })
      await settled()
    }
    await show(true)
    await fill('Quantity', 'Check weight')
    await show(false)
    await show(true)
    expect(field('Quantity').value).toBe('Check weight')
    await press('Cancel')
    expect(localStorage.length).toBe(0)
  })
})

describe('leaving a form', () => {
  const page = { template: '<p />' }
  const routed = async () => {
    const router = createRouter({
      history: createMemoryHistory(),
      routes: ['/here', '/there'].map((path) => ({ path, component: page })),
    })
    await router.push('/here')
    askBeforeLeaving(router)
    return router
  }

  it('asks while something is unsaved, and stays or goes as it is answered', async () => {
    const router = await routed()
    const form = opened()
    form.typed.lot = 'W-17'
    expect(isAnythingUnsaved()).toBe(true)
    void router.push('/there')
    await flushPromises()
    leaveQuestion.value!(false)
    await flushPromises()
    expect(router.currentRoute.value.path).toBe('/here')
    void router.push('/there')
    await flushPromises()
    leaveQuestion.value!(true)
    await flushPromises()
    expect(router.currentRoute.value.path).toBe('/there')
    expect(leaveQuestion.value).toBeNull()
    form.gone()
  })

  it('does not ask where nothing was typed, or all is saved', async () => {
    const router = await routed()
    const form = opened()
    form.typed.lot = 'W-17'
    form.draft.saved()
    await router.push('/there')
    expect(router.currentRoute.value.path).toBe('/there')
    form.gone()
    expect(isAnythingUnsaved()).toBe(false)
  })
})
