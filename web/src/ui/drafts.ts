import { computed, onScopeDispose, ref, watch } from 'vue'

/**
 * What is typed in forms and not saved yet, kept on this computer.
 *
 * Each tab of the browser has a place of its own for each form, so that two tabs do not overwrite each
 * other. A tab that has none takes over the newest of the others: that is what is left after the browser
 * was closed. Passwords are never kept.
 */
interface KeptDraft {
  typed: unknown
  at: string
}

/** A form with what was typed in it. */
export interface Draft {
  /** When what was restored had been typed; null while nothing was. */
  restoredAt: Readonly<{ value: string | null }>
  isUnsaved: () => boolean
  /** Begin with the form as it is now; restore what was typed in it before and not saved. */
  begin: () => void
  /** Go back to the form as it began. */
  discard: () => void
  /** What is typed now is saved. */
  saved: () => void
  /** The form is closed; what is typed in it stays kept. */
  end: () => void
}

const PREFIX = 'draft'
const MAX_AGE_MS = 14 * 24 * 3600 * 1000
const open = new Set<Draft>()
let owner: number | null = null

/** Is there a form on the screen with something in it that is not saved? */
export const isAnythingUnsaved = () => [...open].some((draft) => draft.isUnsaved())

/** Let the drafts that are read and written be those of this person; nobody's while it is null. */
export function ownDrafts(personId: number | null) {
  owner = personId
  if (personId !== null) drop((draft) => Date.now() - Date.parse(draft.at) > MAX_AGE_MS)
}

/** Forget what others than this person typed on this computer. */
export function forgetOthersDrafts(personId: number) {
  drop((_, slot) => !slot.startsWith(`${PREFIX}/${personId}/`))
}

function drop(isOut: (draft: KeptDraft, slot: string) => boolean) {
  for (const slot of slotsOf(`${PREFIX}/`)) {
    const draft = readSlot(slot)
    if (!draft || isOut(draft, slot)) localStorage.removeItem(slot)
  }
}

const slotsOf = (start: string) => Object.keys(localStorage).filter((key) => key.startsWith(start))

function readSlot(slot: string): KeptDraft | null {
  try {
    const read = JSON.parse(localStorage.getItem(slot) ?? 'null') as Partial<KeptDraft> | null
    return read?.at && read.typed !== undefined ? (read as KeptDraft) : null
  } catch {
    return null
  }
}

function writeSlot(slot: string, typed: string) {
  try {
    localStorage.setItem(
      slot,
      `{"at":${JSON.stringify(new Date().toISOString())},"typed":${typed}}`,
    )
  } catch {
    // A full or forbidden store costs the draft, never the form.
  }
}

/** This tab, also after a reload of its page. */
function tab(): string {
  const known = sessionStorage.getItem('tab') ?? crypto.randomUUID()
  sessionStorage.setItem('tab', known)
  return known
}

/**
 * Keep what is typed in a form until it is saved or discarded.
 *
 * `read` returns all that is typed, as plain data; `write` puts it back. `name` tells the form from every
 * other one, with the id of what it changes; it is read when the form begins.
 */
export function useDraft<T>(name: () => string, read: () => T, write: (typed: T) => void): Draft {
  const asText = () => JSON.stringify(read())
  const begun = ref<string | null>(null)
  const restoredAt = ref<string | null>(null)
  let slot = ''

  function begin() {
    begun.value = asText()
    restoredAt.value = null
    open.add(draft)
    if (owner === null) return
    const start = `${PREFIX}/${owner}/${name()}/`
    slot = start + tab()
    const found = newest(slot, start)
    if (!found || JSON.stringify(found.typed) === begun.value) return
    write(structuredClone(found.typed) as T)
    restoredAt.value = found.at
    writeSlot(slot, asText())
  }
  function end() {
    begun.value = null
    restoredAt.value = null
    open.delete(draft)
  }
  function discard() {
    if (begun.value === null) return
    write(JSON.parse(begun.value) as T)
    saved()
  }
  function saved() {
    if (slot) localStorage.removeItem(slot)
    restoredAt.value = null
    begun.value = asText()
  }
  const isUnsaved = () => begun.value !== null && begun.value !== asText()

  const stop = watch(asText, (now) => {
    if (begun.value === null || !slot) return
    if (now === begun.value) localStorage.removeItem(slot)
    else writeSlot(slot, now)
  })
  onScopeDispose(() => {
    stop()
    end()
  })
  const draft: Draft = {
    restoredAt: computed(() => restoredAt.value),
    isUnsaved,
    begin,
    discard,
    saved,
    end,
  }
  return draft
}

/** Keep what is typed in a form whose entries are one object. */
export const useDraftOf = <T extends object>(name: () => string, typed: T): Draft =>
  useDraft(
    name,
    () => typed,
    (kept) => Object.assign(typed, kept),
  )

/** The draft in this slot; else the newest of other tabs, which is moved out of its slot. */
function newest(slot: string, start: string): KeptDraft | null {
  const own = readSlot(slot)
  if (own) return own
  const others = slotsOf(start).flatMap((other) => {
    const draft = readSlot(other)
    return draft ? [{ other, draft }] : []
  })
  const last = others.sort((a, b) => a.draft.at.localeCompare(b.draft.at)).at(-1)
  if (!last) return null
  localStorage.removeItem(last.other)
  return last.draft
}
