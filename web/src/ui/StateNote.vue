<script setup lang="ts">
import { t } from '@/ui/words'
import ActButton from '@/ui/ActButton.vue'
import { onMounted, ref } from 'vue'

/** Empty, loading and failing: designed once, used by every screen. */
const props = defineProps<{
  loading?: boolean
  error?: string
  title?: string
  text?: string
  /** One line in a pane, where a whole page has a drawing and a heading. */
  inline?: boolean
}>()
const emit = defineEmits<{ again: [] }>()
const waited = ref(!props.loading)
onMounted(() => window.setTimeout(() => (waited.value = true), 400))
</script>

<template>
  <div v-if="error" class="note" :class="{ inline }" role="alert">
    <svg v-if="!inline" width="56" height="40" viewBox="0 0 56 40" aria-hidden="true">
      <path d="M2 20h18M36 20h18M22 12l5 8-5 8M34 12l-5 8 5 8" />
    </svg>
    <h2 v-if="!inline">{{ title ?? t('ui.not-possible') }}</h2>
    <p>{{ error }}</p>
    <ActButton @click="emit('again')">{{ t('ui.try-again') }}</ActButton>
  </div>
  <div v-else-if="loading" class="note" :class="{ inline }" role="status">
    <template v-if="waited">
      <span v-if="!inline" class="tape"><span /></span>
      <p class="quiet">{{ text ?? t('ui.loading') }}</p>
    </template>
  </div>
  <div v-else class="note">
    <svg width="56" height="40" viewBox="0 0 56 40" aria-hidden="true">
      <path d="M4 6h48v28h-48z" stroke-dasharray="5 4" />
    </svg>
    <h2>{{ title }}</h2>
    <p class="quiet">{{ text }}</p>
    <slot />
  </div>
</template>

<style scoped>
.note {
  display: grid;
  gap: 12px;
  justify-items: start;
  max-width: 520px;
  padding: 40px 0;
}

.note.inline {
  gap: 4px;
  padding: 4px 0;
}

path {
  fill: none;
  stroke: var(--ink-3);
  stroke-width: 2;
}

.tape {
  width: 220px;
  height: 7px;
  overflow: hidden;
}

.tape span {
  display: block;
  width: 40%;
  height: 100%;
  background: repeating-linear-gradient(90deg, var(--tape) 0 9px, transparent 9px 10px);
  animation: run 1.4s linear infinite;
}

@keyframes run {
  from {
    transform: translateX(-100%);
  }

  to {
    transform: translateX(250%);
  }
}
</style>
