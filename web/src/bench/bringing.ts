import { computed, ref, type ComputedRef } from 'vue'
import { ask, client, type Schemas, type TestView } from '@/api/client'
import type { useAct } from '@/api/queries'
import { upload } from '@/api/upload'

/** Import readings of a test: typed, or from files that the server keeps and shows before they count. */
export function useBringing(
  test: ComputedRef<TestView | null>,
  { act, refusedFor }: ReturnType<typeof useAct>,
) {
  const why = ref('')
  const instrument = ref('')
  const files = ref<File[]>([])
  const remarks = ref<string[]>([])
  const chosen = ref<File[]>([])
  const seen = ref<Schemas['PreviewView'] | null>(null)
  const headers = ref<Schemas['HeadersView'] | null>(null)
  const mapping = ref('')
  const specimensBy = ref('')
  const needsWhy = computed(() => refusedFor.value === 'needs-reason')

  /** Readings that were typed, or an upload that the server keeps. */
  async function bring(what: { document: Record<string, unknown> } | { upload_id: number }) {
    const body: Schemas['ReadingsRequest'] = {
      ...what,
      instrument: instrument.value,
      deviation: why.value.trim() || null,
    }
    const params = { path: { test_id: test.value!.id } }
    return act(() => ask(client.POST('/api/tests/{test_id}/readings', { params, body })))
  }

  /** What was chosen is let go of at once: a file that was mended is chosen again under its name. */
  async function takeFiles() {
    chosen.value = files.value
    files.value = []
    remarks.value = []
    if (test.value) await lookAgain()
  }

  async function lookAgain() {
    const [first] = chosen.value
    if (!first) return
    seen.value = null
    headers.value = null
    const path = `/api/tests/${test.value!.id}/import`
    const fields = {
      files: chosen.value,
      specimens_by: specimensBy.value,
      mapping: mapping.value,
    }
    const taken = await act(async () => {
      seen.value = await upload<Schemas['PreviewView']>(path, fields)
    })
    if (taken) return
    // What the columns mean can be said, where the file has any.
    headers.value = await upload<Schemas['HeadersView']>('/api/headers/import', {
      file: first,
    }).catch(() => null)
  }

  async function bringSeen() {
    const preview = seen.value
    if (preview && (await bring({ upload_id: preview.upload_id }))) {
      remarks.value = preview.said
      leaveFiles()
    }
  }

  function leaveFiles() {
    chosen.value = []
    seen.value = null
    headers.value = null
  }

  return {
    why,
    instrument,
    files,
    remarks,
    needsWhy,
    bring,
    takeFiles,
    chosen,
    seen,
    headers,
    mapping,
    specimensBy,
    lookAgain,
    bringSeen,
    leaveFiles,
  }
}
