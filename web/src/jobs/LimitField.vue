<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import { KINDS, kindsFor, type LimitTyped } from '@/jobs/limits'

/** One limit: how a figure is held against it, and the figure as text. */
const props = defineProps<{ label: string; statistic: string; unit: string }>()
const typed = defineModel<LimitTyped>({ required: true })
const kinds = computed(() =>
  kindsFor(props.statistic, props.unit).map((value) => ({ value, title: KINDS[value]! })),
)
const suffix = computed(() => (props.unit === 'grade' ? '' : props.unit))
</script>

<template>
  <div class="limit">
    <v-text-field
      v-model="typed.first"
      class="mono"
      :label="`${label}: ${KINDS[typed.kind]}`"
      :suffix="suffix"
      inputmode="decimal"
      :placeholder="t('jobs.no-limit')"
    />
    <v-text-field
      v-if="typed.kind.endsWith('between')"
      v-model="typed.second"
      class="mono"
      :label="t('jobs.to')"
      :suffix="suffix"
      inputmode="decimal"
    />
    <v-select
      v-if="kinds.length > 1"
      v-model="typed.kind"
      class="kind"
      :items="kinds"
      :aria-label="t('jobs.decision-rule', { label })"
    />
  </div>
</template>

<style scoped>
.limit {
  display: flex;
  gap: 8px;
}

.kind {
  flex: 0 0 176px;
}
</style>
