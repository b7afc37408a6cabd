<script setup lang="ts">
import { t } from '@/ui/words'
import { useNow } from '@/app/clock'
import { computed } from 'vue'
import type { SpecimenView } from '@/api/client'
import type { BenchView } from '@/bench/bench'
import type { Recorded } from '@/bench/procedures/recorded'
import { fixed, signed } from '@/ui/numbers'
import ActButton from '@/ui/ActButton.vue'

/** A blow: the scale with the part of it that counts, and the seconds from the chamber, large. */
const props = defineProps<{ view: BenchView; specimen: SpecimenView; recorded: Recorded }>()
defineEmits<{ working: [] }>()
const now = useNow()
const clock = computed(() => props.view.clocks[0] ?? null)
const left = computed(() =>
  clock.value ? clock.value.seconds - (now.value - Date.parse(clock.value.since)) / 1000 : 0,
)
const scale = computed(() => props.view.scale)
/** Where on the arc a share of the scale lies; it runs from the left over the top to the right. */
const at = (share: number, radius: number) => {
  const angle = Math.PI * (1 - Math.min(Math.max(share, 0), 1))
  return `${210 + radius * Math.cos(angle)} ${196 - radius * Math.sin(angle)}`
}
const arc = (from: number, to: number, radius: number) =>
  `M${at(from, radius)} A${radius} ${radius} 0 0 1 ${at(to, radius)}`
const SHARES = [0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1]
const read = computed(() => props.view.facts.find((fact) => fact.name === scale.value?.reading))
const share = computed(() =>
  read.value && scale.value ? Number(read.value.value) / scale.value.full : null,
)
const shown = (part: number) =>
  signed(Number((part * (scale.value?.full ?? 1)).toFixed(2)).toString())
</script>

<template>
  <div class="swing">
    <p class="mono quiet set">{{ view.set_up }}</p>
    <figure v-if="clock" class="clock">
      <figcaption>
        {{ t('bench.at-most-s', { title: clock.title, seconds: fixed(clock.seconds, 0) }) }}
      </figcaption>
      <p class="mono count" :class="{ over: left < 0 }" role="timer">
        {{ fixed(Math.abs(left), 0)
        }}<span class="unit">s {{ left < 0 ? t('bench.too-late') : '' }}</span>
      </p>
    </figure>
    <svg
      v-else-if="scale"
      viewBox="0 0 420 232"
      role="img"
      :aria-label="
        t('bench.scale-to-readings-from-to-of-it-count', {
          full: scale.full,
          unit: scale.unit,
          value: 100 * scale.lower,
          value2: 100 * scale.upper,
        })
      "
    >
      <path class="zone" :d="arc(scale.lower, scale.upper, 150)" />
      <path class="edge" :d="arc(0, 1, 164)" />
      <g v-for="part in SHARES" :key="part">
        <path class="edge" :d="`M${at(part, 164)}L${at(part, 174)}`" />
        <text
          :x="at(part, 188).split(' ')[0]"
          :y="Number(at(part, 188).split(' ')[1]) + 4"
          text-anchor="middle"
        >
          {{ shown(part) }}
        </text>
      </g>
      <path
        class="needle"
        :d="`M210 196L${at(share ?? 0, 158)}`"
        :class="{ resting: share === null }"
      />
      <circle cx="210" cy="196" r="7" class="axis" />
      <text x="210" y="226" text-anchor="middle">{{ scale.unit }}</text>
    </svg>
    <dl>
      <div v-for="fact in view.facts" :key="fact.name">
        <dt>{{ fact.title }}</dt>
        <dd class="mono">{{ fact.value.replace(/-/g, ' ') }} {{ fact.unit }}</dd>
      </div>
      <div v-if="specimen.value_text">
        <dt>{{ t('bench.figure') }}</dt>
        <dd class="mono">
          <ActButton kind="plain" class="opens" @click="$emit('working')">
            {{ signed(specimen.value_text) }}
          </ActButton>
        </dd>
      </div>
    </dl>
  </div>
</template>

<style scoped>
.swing {
  display: grid;
  gap: 14px;
  align-content: start;
}

svg {
  width: 100%;
  max-width: 640px;
  max-height: 46vh;
}

.set {
  text-align: right;
}

.zone {
  fill: none;
  stroke: var(--tape);
  stroke-width: 20;
  opacity: 0.45;
}

.edge {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.6;
}

.needle {
  stroke: var(--blue);
  stroke-width: 4;
}

.needle.resting {
  stroke: var(--ink-3);
}

.axis {
  fill: var(--ink);
}

text {
  fill: var(--ink-2);
  font: 12px var(--mono);
}

.clock {
  margin: 0;
}

.count {
  display: flex;
  gap: 18px;
  align-items: baseline;
  font-size: 190px;
  font-weight: 700;
  line-height: 1;
}

.unit {
  font-size: 34px;
  font-weight: 400;
}

.over {
  color: var(--brick);
}

dl {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 34px;
  margin: 0;
}

dt {
  color: var(--ink-2);
  font-size: 14px;
}

dd {
  margin: 0;
  font-size: 21px;
  font-weight: 700;
}

.opens {
  border-bottom: 1.5px dotted var(--ink-3);
  font-weight: 700;
}
</style>
