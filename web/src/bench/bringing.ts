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
  const needsWhy = computed(() => refusedFor.value === 'needs-reason')

  async function bring(document: unknown, source: string | null, said: string[]) {
    const body: Schemas['ReadingsAsked'] = {
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
      await act(() => takeCsv(picked, source))
    }
  }

  async function takeCsv(picked: File[], source: string) {
    const made = await upload<Schemas['ImportedView']>('/api/import', {
      method: test.value!.method,
      files: picked,
    })
    remarks.value = made.said
    const body: Schemas['ReadingsAsked'] = {
      document: { specimens: made.document.specimens },
      source_name: source,
      said: made.said,
      instrument: instrument.value,
      deviation: why.value.trim() || null,
    }
    const params = { path: { test_id: test.value!.id } }
    await ask(client.POST('/api/tests/{test_id}/readings', { params, body }))
  }

  return { why, instrument, files, remarks, needsWhy, bring, takeFiles }
}
