import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, ref } from 'vue'
import { client } from '@/api/client'
import { useBringing } from '@/bench/bringing'

const PREVIEW = {
  upload_id: 12,
  matched: [{ name: 'W1.csv', label: 'W1', text: '', samples: 60, highest: 24 }],
  said: ['W1.csv: read as mm and N'],
}
const file = (name: string) => new File(['x'], name)

function importing(answers: Record<string, unknown>) {
  const sent: { path: string; body: FormData }[] = []
  vi.stubGlobal(
    'fetch',
    vi.fn((path: string, { body }: { body: FormData }) => {
      sent.push({ path, body })
      const answer = answers[path]
      return Promise.resolve(
        new Response(JSON.stringify(answer ?? { detail: 'no header row was found' }), {
          status: answer ? 200 : 422,
        }),
      )
    }),
  )
  const refusedFor = ref('')
  const act = async (work: () => Promise<unknown>) => {
    try {
      await work()
      return true
    } catch {
      return false
    }
  }
  const test = computed(() => ({ id: 3 }))
  const bringing = useBringing(test as never, { act, refusedFor } as never)
  return { bringing, refusedFor, sent }
}

describe('files that are imported', () => {
  const posted = vi.fn<(path: string, options: { body: Record<string, unknown> }) => unknown>()
  beforeEach(() => {
    posted.mockReset()
    posted.mockResolvedValue({ data: {}, response: new Response(null, { status: 200 }) })
    vi.spyOn(client, 'POST').mockImplementation(posted as never)
  })

  it('are sent once, and confirmed by the id of their upload', async () => {
    const { bringing, sent } = importing({ '/api/tests/3/import': PREVIEW })
    bringing.files.value = [file('W1.csv'), file('W2.csv')]
    await bringing.takeFiles()
    expect(sent).toHaveLength(1)
    expect(sent[0]!.body.getAll('files').map((each) => (each as File).name)).toEqual([
      'W1.csv',
      'W2.csv',
    ])
    expect(bringing.files.value).toEqual([])
    bringing.instrument.value = 'LC-1'
    await bringing.bringSeen()
    const [path, options] = posted.mock.calls[0]!
    expect(path).toBe('/api/tests/{test_id}/readings')
    expect(options.body).toEqual({ upload_id: 12, instrument: 'LC-1', deviation: null })
    expect(bringing.remarks.value).toEqual(PREVIEW.said)
    expect(bringing.chosen.value).toEqual([])
  })

  it('stay chosen while a reason is missing, and go with it', async () => {
    const { bringing, refusedFor } = importing({ '/api/tests/3/import': PREVIEW })
    bringing.files.value = [file('W1.csv')]
    await bringing.takeFiles()
    posted.mockRejectedValueOnce(new Error('conditioned too short'))
    await bringing.bringSeen()
    refusedFor.value = 'needs-reason'
    expect(bringing.needsWhy.value).toBe(true)
    expect(bringing.seen.value?.upload_id).toBe(12)
    bringing.why.value = ' agreed with the client '
    await bringing.bringSeen()
    expect(posted.mock.calls[1]![1].body.deviation).toBe('agreed with the client')
    expect(bringing.seen.value).toBeNull()
  })

  it('whose headers mean nothing show them to be mapped', async () => {
    const headers = { headers: ['Weg'], taken: [null], columns: ['extension_mm'] }
    const { bringing, sent } = importing({ '/api/headers/import': headers })
    bringing.files.value = [file('old.csv')]
    await bringing.takeFiles()
    await flushPromises()
    expect(sent.map(({ path }) => path)).toEqual(['/api/tests/3/import', '/api/headers/import'])
    expect(bringing.headers.value?.headers).toEqual(['Weg'])
    expect(bringing.seen.value).toBeNull()
  })

  it('are nothing without a file', async () => {
    const { bringing, sent } = importing({})
    await bringing.takeFiles()
    await bringing.bringSeen()
    expect(sent).toEqual([])
    expect(posted).not.toHaveBeenCalled()
  })
})
