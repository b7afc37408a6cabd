<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { ask, client, sentence } from '@/api/client'
import { useAct } from '@/api/queries'
import ActButton from '@/ui/ActButton.vue'
import PathDrawing from '@/ui/PathDrawing.vue'
import RefusalNote from '@/ui/RefusalNote.vue'

/** A sequence of moves: chosen from those the laboratory keeps, or written; drawn as it is understood. */
const props = defineProps<{ gaugeMm: number }>()
const text = defineModel<string>({ required: true })
const typed = refDebounced(text, 300)
const { act, refused, busy } = useAct()
const queries = useQueryClient()

const kept = useQuery({
  queryKey: ['sequences'],
  queryFn: () => ask(client.GET('/api/sequences')),
})
const read = useQuery({
  queryKey: ['moves', typed, computed(() => props.gaugeMm)],
  queryFn: () =>
    ask(
      client.POST('/api/sequences/interpret', {
        body: { moves: typed.value, gauge_mm: props.gaugeMm },
      }),
    ),
  enabled: computed(() => typed.value.trim() !== ''),
  retry: false,
  staleTime: Infinity,
})
const mistake = computed(() => (read.error.value ? sentence(read.error.value) : ''))

const name = ref('')
function choose(chosen: string | null) {
  const sequence = kept.data.value?.find((row) => row.name === chosen)
  if (!sequence) return
  name.value = sequence.name
  text.value = `# ${sequence.name}, revision ${sequence.revision}\n${sequence.moves}`
}
const keep = () =>
  act(async () => {
    const seen = kept.data.value?.find((row) => row.name === name.value.trim())?.revision ?? 0
    const body = { name: name.value, moves: text.value, seen }
    const sequence = await ask(client.POST('/api/sequences', { body }))
    await queries.invalidateQueries({ queryKey: ['sequences'] })
    text.value = `# ${sequence.name}, revision ${sequence.revision}\n${sequence.moves}`
  })
</script>

<template>
  <div class="moves">
    <v-select
      v-if="kept.data.value?.length"
      :model-value="null"
      density="compact"
      :label="t('jobs.use-a-saved-sequence')"
      :items="
        kept.data.value.map((row) => ({
          value: row.name,
          title: t('jobs.revision', { name: row.name, revision: row.revision }),
        }))
      "
      @update:model-value="choose"
    />
    <v-textarea
      v-model="text"
      class="mono"
      :label="t('jobs.movements-of-the-frame-one-per-line')"
      rows="4"
      auto-grow
      :placeholder="t('jobs.to-0-25-at-1-to-break-at-50')"
      :hint="t('jobs.to-20-mm-at-100-by-5-mm-at-10-to-180-n')"
      persistent-hint
    />
    <p v-if="mistake" class="text small" role="status">{{ mistake }}</p>
    <PathDrawing
      v-else-if="read.data.value && text.trim()"
      :points="read.data.value.path"
      :wide="290"
    />
    <p v-if="text.trim()" class="keep">
      <v-text-field v-model="name" :label="t('jobs.save-as')" density="compact" maxlength="60" />
      <ActButton type="button" :disabled="busy || !name.trim()" @click="keep">{{
        t('jobs.save-sequence')
      }}</ActButton>
    </p>
    <RefusalNote v-model="refused" />
  </div>
</template>

<style scoped>
.moves {
  display: grid;
  gap: 8px;
}

.text {
  padding: 6px 10px;
  border-left: 4px solid var(--tape);
  background: var(--ochre-wash);
}

.keep {
  display: flex;
  gap: 10px;
  align-items: center;
}
</style>
