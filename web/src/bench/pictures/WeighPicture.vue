<script setup lang="ts">
import { useNow } from '@/app/clock'
import { computed } from 'vue'
import type { SpecimenView } from '@/api/client'
import type { BenchView } from '@/bench/bench'
import type { Recorded } from '@/bench/pictures/recorded'
import { fixed } from '@/ui/numbers'

/** Weighed before and after; between the two, the clock is the picture. */
const props = defineProps<{ view: BenchView; specimen: SpecimenView; recorded: Recorded }>()
defineEmits<{ working: [] }>()
const now = useNow()
const clock = computed(() => props.view.clocks[0] ?? null)
const served = computed(() =>
  clock.value ? Math.max((now.value - Date.parse(clock.value.since)) / 1000, 0) : 0,
)
const left = computed(() => (clock.value ? clock.value.seconds - served.value : 0))
const share = computed(() => (clock.value ? Math.min(served.value / clock.value.seconds, 1) : 0))
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
        <span class="quiet">taken up</span>
        <span class="mono mass">{{ specimen.value_text }}</span>
      </p>
    </div>
    <figure v-if="clock" class="clock">
      <figcaption>
        {{ clock.title }}, {{ clock.kind.replace('-', ' ') }}
        <span class="mono">{{ fixed(clock.seconds, 0) }} s</span>
      </figcaption>
      <p class="mono count" :class="{ over: left < 0 }" role="timer">
        {{ left < 0 ? '+' : '' }}{{ fixed(Math.abs(left), 0) }}
        <span class="unit">s {{ left < 0 ? 'too long' : 'to go' }}</span>
      </p>
      <div class="tape"><span :style="{ width: `${100 * share}%` }" /></div>
    </figure>
    <p v-else class="quiet none">
      {{ masses.length ? 'No clock runs now.' : `The clock of ${view.label} runs here.` }}
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

.clock {
  display: grid;
  gap: 4px;
  margin: 0;
}

.count {
  display: flex;
  gap: 18px;
  align-items: baseline;
  font-size: 110px;
  font-weight: 700;
  line-height: 1;
}

.unit {
  font-size: 24px;
  font-weight: 400;
}

.over {
  color: var(--brick);
}

.tape {
  height: 16px;
  background: var(--sunk);
}

.tape span {
  display: block;
  height: 100%;
  background: repeating-linear-gradient(90deg, var(--tape) 0 9px, transparent 9px 10px);
}

.none {
  padding-top: 40px;
}
</style>
