<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, reactive, ref } from 'vue'
import type { Schemas, SpecimenView } from '@/api/client'
import SchemaField from '@/jobs/SchemaField.vue'
import { meant, type Schema } from '@/jobs/schema'
import ActButton from '@/ui/ActButton.vue'
import DraftNote from '@/ui/DraftNote.vue'
import { useDraft } from '@/ui/drafts'

/** The readings of one specimen, typed by hand: the fields that its method reads. */
const props = defineProps<{
  testId: number
  method: Schemas['MethodPage']
  open: SpecimenView[]
  busy: boolean
  write: (specimen: Record<string, unknown>) => Promise<boolean>
}>()
const root = computed(() => props.method.readings_schema as Schema)
const fields = computed(() =>
  Object.entries(root.value.properties ?? {}).filter(([name, schema]) => {
    if (['label', 'direction', 'observations'].includes(name)) return false
    if (name === 'state')
      return Boolean(meant(schema, root.value).enum) || Boolean(props.method.by_document)
    return !name.startsWith('trace')
  }),
)
const chosen = ref<string | null>(null)
const entry = reactive<Record<string, unknown>>({})
const newLabel = ref('')
const newDirection = ref<string | null>(null)
const next = computed(
  () => props.open.find((specimen) => specimen.label === chosen.value) ?? props.open[0],
)

const draft = useDraft(
  () => `readings/${props.testId}`,
  () => ({
    entry,
    label: newLabel.value,
    direction: newDirection.value,
    chosen: chosen.value,
  }),
  (kept) => {
    clear()
    Object.assign(entry, kept.entry)
    newLabel.value = kept.label
    newDirection.value = kept.direction
    chosen.value = kept.chosen
  },
)
draft.begin()
function clear() {
  for (const name of Object.keys(entry)) delete entry[name]
  newLabel.value = ''
}
async function typed() {
  const label = props.method.by_document ? newLabel.value.trim() : next.value?.label
  const direction = props.method.by_document ? newDirection.value : null
  const filled = Object.entries(entry).filter(([, value]) => value !== undefined && value !== null)
  const specimen = {
    label: label ?? '',
    ...(direction ? { direction } : {}),
    ...Object.fromEntries(filled),
  }
  if (await props.write(specimen)) {
    clear()
    chosen.value = null
    draft.saved()
  }
}
</script>

<template>
  <form class="typed" @submit.prevent="typed">
    <h2>
      {{
        method.by_document
          ? t('bench.enter-readings')
          : t('bench.enter-readings-of', { label: next?.label })
      }}
    </h2>
    <DraftNote :draft="draft" />
    <div class="grid">
      <template v-if="method.by_document">
        <v-text-field v-model="newLabel" :label="t('bench.label-2')" class="mono" />
        <v-select
          v-if="method.directions.length"
          v-model="newDirection"
          :items="method.directions"
          :label="t('bench.direction')"
        />
      </template>
      <v-select
        v-else-if="open.length > 1"
        :model-value="next?.label"
        :items="open.map((specimen) => specimen.label)"
        :label="t('bench.specimen')"
        @update:model-value="chosen = $event"
      />
      <SchemaField
        v-for="[name, schema] in fields"
        :key="`${method.id} ${name}`"
        v-model="entry[name]"
        :name="name"
        :schema="schema"
        :root="root"
        :required="root.required?.includes(name)"
      />
    </div>
    <ActButton kind="main" :disabled="busy"
      >{{ t('bench.record-readings') }} <kbd>{{ t('bench.enter') }}</kbd></ActButton
    >
  </form>
</template>

<style scoped>
.typed,
.grid {
  display: grid;
  gap: 12px;
}

.grid {
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
}

.typed > .act {
  justify-self: start;
}
</style>
