<script setup lang="ts">
import { t } from '@/ui/words'
import { signed } from '@/ui/numbers'
import { computed } from 'vue'
import type { SpecimenView } from '@/api/client'
import type { BenchView } from '@/bench/bench'
import ClockFigure from '@/bench/procedures/ClockFigure.vue'
import type { Recorded } from '@/bench/procedures/recorded'

/** Weighed before and after; between the two, the clock is the picture. */
const props = defineProps<{ view: BenchView; specimen: SpecimenView; recorded: Recorded }>()
defineEmits<{ working: [] }>()
const clock = computed(() => props.view.clocks[0] ?? null)
const masses = computed(() => props.view.facts.filter((fact) => fact.unit === 'g'))
</script>

<template>
  <div class="weigh">
    <div class="masses">
      <p v-for="(name, place) in ['before', 'after']" :key="name" class="pan">
        <span class="quiet">{{ name }}</span>
        <span class="mono mass">{{ masses[place]?.value ?? '–' }}</span>
        <span class="mono">g</span>
      </p>
      <p v-if="specimen.value_text" class="pan result">
        <span class="quiet">{{ t('bench.taken-up') }}</span>
        <span class="mono mass">{{ signed(specimen.value_text) }}</span>
      </p>
    </div>
    <ClockFigure v-if="clock" :clock="clock" />
    <p v-else class="quiet none">
      {{
        masses.length
          ? t('bench.no-clock-runs-now')
          : t('bench.the-clock-of-runs-here', { label: view.label })
      }}
    </p>
  </div>
</template>

<style scoped>
.weigh {
  display: grid;
  gap: 34px;
  align-content: start;
  padding-top: 12px;
}

.masses {
  display: flex;
  flex-wrap: wrap;
  gap: 20px 60px;
}

.pan {
  display: grid;
  grid-template-columns: auto auto;
  gap: 0 8px;
  align-items: baseline;
  justify-content: start;
  padding-bottom: 8px;
  border-bottom: 4px solid var(--ink);
}

.pan .quiet {
  grid-column: 1 / -1;
}

.mass {
  min-width: 4ch;
  font-size: 46px;
  font-weight: 700;
  line-height: 1.1;
}

.result {
  border-color: var(--blue);
}

.none {
  padding-top: 40px;
}
</style>
