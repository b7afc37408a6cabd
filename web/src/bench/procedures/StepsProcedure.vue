<script setup lang="ts">
import { t } from '@/ui/words'
import { signed } from '@/ui/numbers'
import { computed } from 'vue'
import ClockFigure from '@/bench/procedures/ClockFigure.vue'
import FactsLine from '@/bench/procedures/FactsLine.vue'
import type { ProcedureProps } from '@/bench/procedures/figures'
import ActButton from '@/ui/ActButton.vue'

/** A jar under vacuum, or a cabinet with its flame: in which state it is, and the clock that runs. */
const props = defineProps<ProcedureProps>()
defineEmits<{ working: [] }>()
const done = computed(
  () => new Set(props.view.events.filter((event) => !event.taken_back).map((event) => event.kind)),
)
const isFlame = computed(() => props.view.procedure === 'burn')
const isLit = computed(() => done.value.has('lit') && !done.value.has('burned'))
const fanIsOff = computed(() => done.value.has('fan-off') && !done.value.has('fan-on'))
const isUnderVacuum = computed(() => done.value.has('vacuum') && !done.value.has('aired'))
</script>

<template>
  <div class="steps">
    <p v-if="specimen.value_text" class="figure">
      <ActButton kind="plain" class="mono opens" @click="$emit('working')">
        {{ signed(specimen.value_text) }}
      </ActButton>
      {{ view.figure_unit }}
    </p>
    <svg
      v-if="isFlame"
      viewBox="0 0 420 220"
      role="img"
      :aria-label="
        t('bench.cabinet-fan', {
          part: fanIsOff ? t('bench.off') : t('bench.on'),
          part2: isLit ? t('bench.burning') : t('bench.no-flame'),
        })
      "
    >
      <rect x="30" y="20" width="280" height="180" class="cabinet" />
      <path d="M90 176L226 60" class="cloth" />
      <path d="M214 48l26 26" class="thread" />
      <path v-if="isLit" d="M86 178q-14 -20 2 -42q4 16 14 20q-2 16 -16 22z" class="flame" />
      <path d="M60 180h36l-14 14h-8z" class="burner" />
      <g :class="{ off: fanIsOff }" class="fan">
        <circle cx="362" cy="58" r="34" />
        <path d="M362 58l0 -28M362 58l24 14M362 58l-24 14" />
      </g>
      <text x="362" y="118" text-anchor="middle">
        {{ t('bench.fan', { part: fanIsOff ? t('bench.off') : t('bench.on') }) }}
      </text>
      <text x="362" y="140" text-anchor="middle">{{ isLit ? t('bench.burning') : '' }}</text>
    </svg>
    <svg
      v-else
      viewBox="0 0 420 220"
      role="img"
      :aria-label="
        t('bench.jar', { part: isUnderVacuum ? t('bench.under-vacuum') : t('bench.open') })
      "
    >
      <path d="M90 30v150q0 20 20 20h160q20 0 20 -20v-150" class="cabinet" />
      <path d="M92 78h196v102q0 18 -18 18h-160q-18 0 -18 -18z" class="water" />
      <path v-if="isUnderVacuum" d="M76 24h228v10h-228z" class="lid" />
      <path d="M110 118h160" class="grid" />
      <rect x="140" y="128" width="100" height="46" rx="6" class="pack" />
      <g v-if="view.facts.some((fact) => fact.value === 'stream')" class="bubbles">
        <circle v-for="n in 5" :key="n" :cx="232 + (n % 2) * 6" :cy="126 - 9 * n" r="4" />
      </g>
      <text x="310" y="110">{{ isUnderVacuum ? t('bench.vacuum') : t('bench.air') }}</text>
    </svg>
    <ClockFigure v-for="clock in view.clocks" :key="clock.code" :clock="clock" />
    <FactsLine :facts="view.facts" />
  </div>
</template>

<style scoped>
.steps {
  display: grid;
  gap: 16px;
  align-content: start;
}

.figure {
  font-size: 20px;
}

.figure .mono {
  font-size: 46px;
  font-weight: 700;
}

svg {
  width: 100%;
  max-width: 620px;
}

path,
rect,
circle {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2.2;
}

.cloth {
  stroke-width: 9;
  stroke: var(--ink-2);
}

.thread {
  stroke-width: 1.5;
}

.flame {
  fill: var(--brick);
  stroke: var(--tape);
}

.burner,
.lid {
  fill: var(--ink);
}

.fan.off circle {
  stroke-dasharray: 5 5;
}

.water {
  fill: var(--blue-wash);
  stroke: none;
}

.grid {
  stroke-dasharray: 3 5;
}

.pack {
  fill: var(--ochre-wash);
}

.bubbles circle {
  fill: var(--page);
  stroke: var(--blue);
}

text {
  fill: var(--ink-2);
  font-family: var(--mono);
  font-size: 17px;
}
</style>
