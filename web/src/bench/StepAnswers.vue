<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed } from 'vue'
import ActButton from '@/ui/ActButton.vue'
import { isTyping, listKeys } from '@/ui/keys'

/** A question whose answers are buttons, each with its digit as a key. */
const props = defineProps<{ title: string; choices: string[]; disabled: boolean }>()
const emit = defineEmits<{ answer: [choice: string] }>()
/** Grades are picked on a scale of their steps; the grey scale in the light box decides. */
const isScale = computed(() => props.choices.every((choice) => /^\d(-\d)?$/.test(choice)))

listKeys(() =>
  props.choices.map((choice, place) => ({
    key: String(place + 1),
    text: choice.replace(/-(?=[a-z])/g, ' '),
  })),
)
useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  const choice = props.choices[Number(event.key) - 1]
  if (!choice || props.disabled || event.ctrlKey || event.altKey || event.metaKey) return
  if (event.repeat || isTyping(event)) return
  event.preventDefault()
  emit('answer', choice)
})
</script>

<template>
  <fieldset class="answers" :class="{ scale: isScale }">
    <legend class="small quiet">{{ title }}</legend>
    <ActButton
      v-for="(choice, place) in choices"
      :key="choice"
      type="button"
      :disabled="disabled"
      @click="emit('answer', choice)"
    >
      {{ choice.replace(/-(?=[a-z])/g, ' ') }} <kbd>{{ place + 1 }}</kbd>
    </ActButton>
  </fieldset>
</template>

<style scoped>
.answers {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  padding: 0;
  border: 0;
}

.answers .act {
  min-width: 64px;
  padding: 12px 16px;
  font-size: 17px;
}

.scale {
  flex-wrap: nowrap;
  gap: 0;
  padding-top: 12px;
  border-top: 3px solid var(--ink);
}

.scale legend {
  float: left;
}

.scale .act {
  position: relative;
  flex: 1 1 0;
  min-width: 0;
  padding: 12px 0;
  border-radius: 0;
  font-size: 14px;
}

.scale .act::before {
  position: absolute;
  top: -14px;
  left: 50%;
  width: 2px;
  height: 11px;
  background: var(--ink);
  content: '';
}

.scale kbd {
  display: none;
}
</style>
