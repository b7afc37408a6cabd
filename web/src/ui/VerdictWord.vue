<script setup lang="ts">
/** A verdict by word and shape first, colour second. */
import { verdictWords } from './phrases'

defineProps<{ verdict: string; open?: string }>()
const SHAPES: Record<string, string> = {
  meets: 'M2 8l4 4 8-9',
  'does not meet': 'M3 3l10 10M13 3L3 13',
  'cannot say': 'M2 8h12',
}
</script>

<template>
  <span
    class="verdict"
    :class="{ fails: verdict === 'does not meet', open: verdict === 'not judged' }"
  >
    <svg v-if="SHAPES[verdict]" width="16" height="16" viewBox="0 0 16 16" aria-hidden="true">
      <path :d="SHAPES[verdict]" fill="none" stroke="currentColor" stroke-width="2.4" />
    </svg>
    {{ verdict === 'not judged' && open ? open : verdictWords(verdict) }}
  </span>
</template>
