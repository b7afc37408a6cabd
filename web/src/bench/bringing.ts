import { computed, ref, type ComputedRef } from 'vue'
import { ask, client, type Schemas, type TestView } from '@/api/client'
import type { useAct } from '@/api/queries'
import { upload } from '@/api/upload'

/** Bring readings of a test in: as a document, or as files that become one. */
export function useBringing(
  test: ComputedRef<TestView | null>,
  { act, refused, refusedFor }: ReturnType<typeof useAct>,
) {
  const why = ref('')
  const instrument = ref('')
  const files = ref<File[]>([])
  const remarks = ref<string[]>([])
  const csv = ref<File[]>([])
  const seen = ref<Schemas['PreviewView'] | null>(null)
  const headers = ref<Schemas['HeadersView'] | null>(null)
  const mapping = ref('')
  const specimensBy = ref('')
  const needsWhy = computed(() => refusedFor.value === 'needs-reason')

  async function bring(document: unknown, source: string | null, said: string[]) {
    const body: Schemas['ReadingsRequest'] = {
      document: document as Record<string, unknown>,
      source_name: source,
      said,
      instrument: instrument.value,
      deviation: why.value.trim() || null,
    }
    const params = { path: { test_id: test.value!.id } }
    return act(() => ask(client.POST('/api/tests/{test_id}/readings', { params, body })))
  }

  /** What was chosen is let go of at once: a file that was mended is chosen again under its name. */
  async function takeFiles() {
    const picked = files.value
    files.value = []
    remarks.value = []
    const [first] = picked
    if (!first || !test.value) return
    const source = picked
      .map((field) => field.name)
      .join(', ')
      .slice(0, 200)
    const text = await first.text().catch(() => null)
    if (text === null) {
      refused.value = `${first.name} was changed after it was chosen; choose it again`
    } else if (picked.length === 1 && /^\s*[[{]/.test(text)) {
      try {
        await bring(JSON.parse(text), source, [])
      } catch (error) {
        refused.value = `${first.name} is no JSON: ${(error as Error).message}`
      }
    } else {
      await takeCsv(picked)
    }
  }

  /** Files of another program are looked at first: which is of which specimen, and how it was read. */
  async function takeCsv(picked: File[]) {
    csv.value = picked
    await lookAgain()
  }

  async function lookAgain() {
    const [first] = csv.value
    if (!first) return
    seen.value = null
    headers.value = null
    const path = `/api/tests/${test.value!.id}/import`
    const fields = {
      files: csv.value,
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
    if (!preview) return
    const source = csv.value
      .map((file) => file.name)
      .join(', ')
      .slice(0, 200)
    if (await bring(preview.document, source, preview.said)) {
      remarks.value = preview.said
      leaveFiles()
    }
  }

  function leaveFiles() {
    csv.value = []
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
    csv,
    seen,
    headers,
    mapping,
    specimensBy,
    lookAgain,
    bringSeen,
    leaveFiles,
  }
}
