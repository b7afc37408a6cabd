<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { columnsOf } from '@/office/months'

/** Twelve months as tapes: how long jobs took, and a mark where they were promised. */
const props = defineProps<{ months: Schemas['MonthLine'][] }>()
const columns = computed(() => columnsOf(props.months))
const HEIGHT = 96
const STEP = 44
</script>

<template>
  <svg
    :viewBox="`0 0 ${STEP * columns.length} ${HEIGHT + 26}`"
    role="img"
    :aria-label="t('office.turnaround-by-month-the-line-is-the-promise')"
  >
    <g
      v-for="(column, place) in columns"
      :key="column.month"
      :transform="`translate(${place * STEP} 0)`"
    >
      <rect
        v-if="column.took !== null"
        x="9"
        width="26"
        :y="HEIGHT - column.took * HEIGHT"
        :height="column.took * HEIGHT"
        class="took"
        :class="{ late: column.isLate }"
      />
      <path
        v-if="column.promised !== null"
        :d="`M3 ${HEIGHT - column.promised * HEIGHT}h38`"
        class="promised"
      />
      <text x="22" :y="HEIGHT + 18" text-anchor="middle">{{ column.label }}</text>
    </g>
    <path :d="`M0 ${HEIGHT}h${STEP * columns.length}`" class="ground" />
  </svg>
  <p class="small quiet">{{ t('office.tapes-show-the-median') }}</p>
</template>

<style scoped>
svg {
  width: 100%;
  max-width: 620px;
}

.took {
  fill: var(--tape);
}

.took.late {
  fill: var(--brick);
}

.promised {
  stroke: var(--ink);
  stroke-width: 2.5;
}

.ground {
  stroke: var(--ink-2);
}

text {
  fill: var(--ink-2);
  font: 13px var(--mono);
}
</style>
