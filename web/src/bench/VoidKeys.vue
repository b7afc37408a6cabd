<script setup lang="ts">
import type { Schemas } from '@/api/client'
import ActButton from '@/ui/ActButton.vue'
import { ref } from 'vue'
import ReasonLeaf from '@/ui/ReasonLeaf.vue'

/** The void codes of a method, as keys 1, 2, 3; one that needs words asks for them first. */
withDefaults(
  defineProps<{
    codes: Schemas['CodeLine'][]
    notes?: Schemas['CodeLine'][]
    noted?: string[]
    quiet?: boolean
    busy: boolean
  }>(),
  { notes: () => [], noted: () => [] },
)
const emit = defineEmits<{
  void: [code: string, words: string]
  note: [code: string, seen: boolean]
}>()
const inWords = ref('')
const asking = ref(false)

function choose(code: Schemas['CodeLine']) {
  if (code.needs_words) {
    inWords.value = code.code!
    asking.value = true
  } else emit('void', code.code!, '')
}
defineExpose({ choose })
</script>

<template>
  <section class="voids">
    <h3>{{ quiet ? 'Void it after all' : 'If it does not count' }}</h3>
    <ActButton
      v-for="(code, place) in codes"
      :key="code.code"
      :disabled="busy"
      :title="code.says"
      @click="choose(code)"
    >
      {{ code.title }} <kbd>{{ place + 1 }}</kbd>
    </ActButton>
    <template v-if="notes.length">
      <h3>Seen, and it counts</h3>
      <ActButton
        v-for="code in notes"
        :key="code.code"
        :disabled="busy"
        :title="code.says"
        :aria-pressed="noted.includes(code.code!)"
        :class="{ seen: noted.includes(code.code!) }"
        @click="$emit('note', code.code!, !noted.includes(code.code!))"
      >
        {{ code.title }}<template v-if="noted.includes(code.code!)"> · noted</template>
      </ActButton>
    </template>
    <ReasonLeaf
      v-model="asking"
      title="Set it aside?"
      says="It does not count, its data stays, and another takes its place. The report gives your words."
      act="Set it aside"
      @given="(words) => emit('void', inWords, words)"
    />
  </section>
</template>

<style scoped>
.voids {
  display: grid;
  gap: 4px;
}

.seen {
  border-color: var(--ochre);
}
</style>
