<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'

/** The specimens of the test: measured, odd, or still to measure. */
defineProps<{ specimens: Schemas['MeasuredSpecimen'][]; current: number | null }>()
defineEmits<{ pick: [id: number] }>()
</script>

<template>
  <div class="slips" role="group" :aria-label="t('measuring.specimens')">
    <button
      v-for="specimen in specimens"
      :key="specimen.id"
      class="plain slip mono"
      :class="{
        now: specimen.id === current,
        done: specimen.done,
        odd: specimen.sizes.some((each) => each.remarks.length),
        spare: !specimen.called,
        closed: !specimen.open,
      }"
      @click="$emit('pick', specimen.id)"
    >
      {{ specimen.label }}
    </button>
  </div>
</template>

<style scoped>
.slips {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  margin: 12px 0 16px;
}

.slip {
  min-width: 46px;
  min-height: 44px;
  padding: 0 8px;
  border: 1.5px solid var(--ink-3);
  border-radius: 5px;
  color: var(--ink-2);
  font-weight: 600;
}

.slip.spare {
  border-style: dashed;
}

.slip.done {
  border-color: var(--ink);
  background: var(--ink);
  color: var(--page);
}

.slip.odd {
  border-color: var(--brick);
  box-shadow: inset 0 -5px 0 var(--brick);
}

.slip.now {
  outline: 3px solid var(--blue);
  outline-offset: 1px;
}

.slip.closed {
  opacity: 0.55;
}
</style>
