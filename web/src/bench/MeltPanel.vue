<script setup lang="ts">
import { t } from '@/ui/words'
import type { TestView } from '@/api/client'
import type { BenchView } from '@/bench/bench'
import DensityPanel from '@/bench/DensityPanel.vue'
import BarrelCheck from '@/instruments/BarrelCheck.vue'

/** What stands beside a charge of melt: the register of densities, the check of this barrel. */
defineProps<{ test: TestView; view: BenchView }>()
</script>

<template>
  <DensityPanel :test="test" />
  <details v-if="view.station">
    <summary class="small">
      {{ t('bench.check-the-barrel-of', { name: view.station.name }) }}
    </summary>
    <BarrelCheck :serial="view.station.serial" :may-write="true" />
  </details>
</template>

<style scoped>
summary {
  min-height: 28px;
  color: var(--ink-2);
  cursor: pointer;
}
</style>
