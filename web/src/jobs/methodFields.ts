import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { ask, client, type MethodLine } from '@/api/client'
import type { Schema } from '@/jobs/schema'

/** The page of a method, and the fields of its parameters as a form asks for them. */
export function useMethodFields(method: MethodLine, enabled?: Ref<boolean>) {
  const page = useQuery({
    queryKey: ['method', method.id],
    queryFn: () =>
      ask(client.GET('/api/methods/{method_id}', { params: { path: { method_id: method.id } } })),
    enabled,
    staleTime: Infinity,
  })
  const schema = computed(() => (page.data.value?.parameters_schema ?? {}) as Schema)
  /** A field with its default; how many are usual is what the method asks for. */
  function usually(name: string): Schema {
    const field = schema.value.properties![name]!
    const isCount = name === 'specimens_wanted'
    return isCount ? { ...field, default: method.specimens_per_direction } : field
  }
  return { page, schema, usually }
}
