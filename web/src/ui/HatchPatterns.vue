<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** The patterns that tell the tests of a sheet apart, and the one of areas to avoid. */
defineProps<{ tests: Schemas['SheetTest'][]; name: string; unit: number }>()
</script>

<template>
  <defs>
    <pattern
      v-for="(test, place) in tests"
      :id="`${name}-${place}`"
      :key="test.id"
      :width="test.hatch.apart_mm * 1.5 * unit"
      :height="test.hatch.apart_mm * 1.5 * unit"
      patternUnits="userSpaceOnUse"
      :patternTransform="`rotate(${test.hatch.angle})`"
    >
      <line
        x1="0"
        :x2="test.hatch.apart_mm * 1.5 * unit"
        y1="0"
        y2="0"
        class="test"
        :stroke-width="1.1 * unit"
        :stroke-dasharray="
          test.hatch.dashes
            .split(' ')
            .filter(Boolean)
            .map((dash) => Number(dash) * 1.5 * unit)
            .join(' ') || undefined
        "
      />
    </pattern>
    <pattern
      :id="`${name}-avoid`"
      :width="9 * unit"
      :height="9 * unit"
      patternUnits="userSpaceOnUse"
      patternTransform="rotate(45)"
    >
      <line x1="0" y1="0" x2="0" :y2="9 * unit" class="avoid" :stroke-width="1.8 * unit" />
    </pattern>
  </defs>
</template>

<style scoped>
.test {
  stroke: var(--ink-3);
}

.avoid {
  stroke: var(--brick);
  opacity: 0.6;
}
</style>
