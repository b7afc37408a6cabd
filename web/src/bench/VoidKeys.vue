<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import ActButton from '@/ui/ActButton.vue'
import { ref } from 'vue'
import ReasonDialog from '@/ui/ReasonDialog.vue'

/** The void codes of a method, as keys 1, 2, 3; one that needs words asks for them first. */
withDefaults(
  defineProps<{
    codes: Schemas['CodeLine'][]
    notes?: Schemas['CodeLine'][]
    noted?: string[]
    quiet?: boolean
    tested?: boolean
    busy: boolean
  }>(),
  { notes: () => [], noted: () => [] },
)
const emit = defineEmits<{
  void: [code: string, text: string]
  note: [code: string, seen: boolean]
}>()
const inWords = ref('')
const asking = ref(false)

function choose(code: Schemas['CodeLine']) {
  if (code.needs_reason) {
    inWords.value = code.code!
    asking.value = true
  } else emit('void', code.code, '')
}
defineExpose({ choose })
</script>

<template>
  <component :is="quiet ? 'details' : 'section'" class="voids">
    <component :is="quiet ? 'summary' : 'h3'">{{
      tested ? t('bench.void-after-acceptance') : t('bench.void-this-specimen')
    }}</component>
    <ActButton
      v-for="(code, place) in codes"
      :key="code.code"
      :disabled="busy"
      :title="code.text"
      @click="choose(code)"
    >
      {{ code.title }} <kbd>{{ place + 1 }}</kbd>
    </ActButton>
    <template v-if="notes.length && (!quiet || tested)">
      <h3>{{ t('bench.observations-the-specimen-counts') }}</h3>
      <ActButton
        v-for="code in notes"
        :key="code.code"
        :disabled="busy"
        :title="code.text"
        :aria-pressed="noted.includes(code.code!)"
        :class="{ seen: noted.includes(code.code!) }"
        @click="$emit('note', code.code!, !noted.includes(code.code!))"
      >
        {{ code.title
        }}<template v-if="noted.includes(code.code!)"> {{ t('bench.recorded') }}</template>
      </ActButton>
    </template>
    <ReasonDialog
      v-model="asking"
      :title="t('bench.void-with-a-reason')"
      :text="t('bench.the-specimen-does-not-count-its-data')"
      :act="t('bench.void-specimen')"
      @given="(text) => emit('void', inWords, text)"
    />
  </component>
</template>

<style scoped>
.voids {
  display: grid;
  gap: 4px;
}

summary {
  min-height: 30px;
  color: var(--ink-2);
  cursor: pointer;
}

.seen {
  border-color: var(--ochre);
}
</style>
