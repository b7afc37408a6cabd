<script setup lang="ts">
import { computed, useId } from 'vue'
import type { LimitRuleView } from '@/api/client'
import { graduationText, ruleInWords, scaleOf } from '@/ui/ruleScale'

/**
 * The one way a result is drawn: a graduated rule, the limit as a notch with the forbidden
 * side hatched, the guard band beside it, a tick per specimen, voids as struck rings below, the mean as a wedge.
 */
const props = withDefaults(defineProps<{ rule: LimitRuleView; size?: 'cell' | 'page' }>(), {
  size: 'cell',
})
const hatch = useId()
const PAD = 6
const tall = computed(() => props.size === 'page')
const base = computed(() => (tall.value ? 46 : 26))
const height = computed(() => (tall.value ? 82 : 44))

const scale = computed(() => scaleOf(props.rule))
const at = (value: number) => scale.value.at(value)
</script>

<template>
  <svg
    class="rule"
    :class="size"
    :height="height"
    width="100%"
    role="img"
    :aria-label="ruleInWords(rule)"
  >
    <defs>
      <pattern
        :id="hatch"
        width="6"
        height="6"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <line x1="0" y1="0" x2="0" y2="6" class="hatch" />
      </pattern>
    </defs>
    <svg :x="PAD" y="0" :width="`calc(100% - ${2 * PAD}px)`" :height="height" overflow="visible">
      <rect
        v-for="(beyond, place) in scale.forbidden"
        :key="`b${place}`"
        :x="`${at(beyond.start)}%`"
        :y="base - (tall ? 16 : 9)"
        :width="`${at(beyond.end) - at(beyond.start)}%`"
        :height="tall ? 16 : 9"
        :fill="`url(#${hatch})`"
      />
      <rect
        v-for="(band, place) in rule.guarded"
        :key="`g${place}`"
        :x="`${at(band.start)}%`"
        :y="base - (tall ? 8 : 5)"
        :width="`${at(band.end) - at(band.start)}%`"
        :height="tall ? 8 : 5"
        class="guarded"
      />
      <line x1="0" x2="100%" :y1="base" :y2="base" class="edge" />
      <line
        v-for="graduation in scale.fine"
        :key="`f${graduation}`"
        :x1="`${at(graduation)}%`"
        :x2="`${at(graduation)}%`"
        :y1="base"
        :y2="base + 3"
        class="fine"
      />
      <g v-for="graduation in scale.graduations" :key="graduation">
        <line
          :x1="`${at(graduation)}%`"
          :x2="`${at(graduation)}%`"
          :y1="base"
          :y2="base + (tall ? 8 : 6)"
          class="edge"
        />
        <text
          v-if="tall"
          :x="`${at(graduation)}%`"
          :y="base + 22"
          :text-anchor="graduation === rule.low ? 'start' : at(graduation) > 99 ? 'end' : 'middle'"
        >
          {{ graduationText(graduation) }}
        </text>
      </g>
      <line
        v-for="(value, place) in rule.values"
        :key="`v${place}`"
        :x1="`${at(value)}%`"
        :x2="`${at(value)}%`"
        :y1="base - (tall ? 18 : 11)"
        :y2="base"
        class="tick"
      />
      <g v-for="(value, place) in rule.voids" :key="`x${place}`">
        <circle
          :cx="`${at(value)}%`"
          :cy="base + (tall ? 30 : 13)"
          :r="tall ? 4.5 : 3.5"
          class="void"
        />
        <svg :x="`${at(value)}%`" :y="base + (tall ? 30 : 13)" overflow="visible">
          <line x1="-5" y1="5" x2="5" y2="-5" class="void" />
        </svg>
      </g>
      <rect
        v-if="scale.interval"
        :x="`${scale.interval[0]}%`"
        :y="base - (tall ? 26 : 16)"
        :width="`${scale.interval[1] - scale.interval[0]}%`"
        :height="tall ? 5 : 4"
        class="interval"
      />
      <svg
        v-if="rule.mean !== null"
        :x="`${at(rule.mean)}%`"
        :y="base - (tall ? 25 : 15)"
        overflow="visible"
      >
        <path :d="tall ? 'M-9-15h18L0 0z' : 'M-6-9h12L0 0z'" class="mean" />
      </svg>
      <line
        v-for="(limit, place) in scale.limits"
        :key="`l${place}`"
        :x1="`${at(limit)}%`"
        :x2="`${at(limit)}%`"
        :y1="base - (tall ? 24 : 14)"
        :y2="base + (tall ? 12 : 8)"
        class="limit"
      />
    </svg>
  </svg>
</template>

<style scoped src="./rule.css"></style>

<style scoped>
.rule {
  display: block;
  min-width: 120px;
  overflow: visible;
}

.fine {
  stroke: var(--ink-3);
  stroke-width: 1;
}

.guarded {
  fill: var(--brick);
  opacity: 0.28;
}

.hatch {
  stroke: var(--brick);
  stroke-width: 1.2;
  opacity: 0.65;
}

.void {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.4;
}
</style>
