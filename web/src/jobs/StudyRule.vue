<script setup lang="ts">
import { computed, useId } from 'vue'
import type { LimitRuleView } from '@/api/client'
import { graduationText, ruleInWords, scaleOf } from '@/ui/ruleScale'

/**
 * One row of a comparison, or the axis below its rows. The rows stand on each other without a gap, so that
 * limit and graduations run through all of them and the samples share one axis.
 */
const props = defineProps<{ rule: LimitRuleView; axis?: boolean }>()
const ROW = 51
const AXIS = 30
const hatch = useId()
const scale = computed(() => scaleOf(props.rule))
const height = computed(() => (props.axis ? AXIS : ROW))
const anchorOf = (value: number) => {
  if (value === props.rule.low) return 'start'
  return scale.value.at(value) > 99 ? 'end' : 'middle'
}
</script>

<template>
  <svg
    width="100%"
    :height="height"
    :role="axis ? undefined : 'img'"
    :aria-hidden="axis"
    :aria-label="axis ? undefined : ruleInWords(rule)"
  >
    <template v-if="axis">
      <line x1="0" x2="100%" y1="1" y2="1" class="edge" />
      <g v-for="value in scale.graduations" :key="value">
        <line :x1="`${scale.at(value)}%`" :x2="`${scale.at(value)}%`" y1="1" y2="8" class="edge" />
        <text :x="`${scale.at(value)}%`" y="23" :text-anchor="anchorOf(value)">
          {{ graduationText(value) }}
        </text>
      </g>
    </template>
    <template v-else>
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
      <rect
        v-for="(part, place) in scale.forbidden"
        :key="`b${place}`"
        :x="`${scale.at(part.start)}%`"
        y="0"
        :width="`${scale.at(part.end) - scale.at(part.start)}%`"
        :height="ROW"
        :fill="`url(#${hatch})`"
      />
      <rect
        v-for="(part, place) in rule.guarded"
        :key="`g${place}`"
        :x="`${scale.at(part.start)}%`"
        y="0"
        :width="`${scale.at(part.end) - scale.at(part.start)}%`"
        :height="ROW"
        class="guarded"
      />
      <line
        v-for="value in scale.graduations"
        :key="value"
        :x1="`${scale.at(value)}%`"
        :x2="`${scale.at(value)}%`"
        y1="0"
        :y2="ROW"
        class="grid"
      />
      <line
        v-for="(limit, place) in scale.limits"
        :key="`l${place}`"
        :x1="`${scale.at(limit)}%`"
        :x2="`${scale.at(limit)}%`"
        y1="0"
        :y2="ROW"
        class="limit"
      />
      <rect
        v-if="scale.interval"
        :x="`${scale.interval[0]}%`"
        y="12"
        :width="`${scale.interval[1] - scale.interval[0]}%`"
        height="5"
        class="interval"
      />
      <line
        v-for="(value, place) in rule.values"
        :key="`v${place}`"
        :x1="`${scale.at(value)}%`"
        :x2="`${scale.at(value)}%`"
        y1="24"
        y2="40"
        class="tick"
      />
      <svg v-if="rule.mean !== null" :x="`${scale.at(rule.mean)}%`" y="24" overflow="visible">
        <path d="M-7-12h14L0 0z" class="mean" />
      </svg>
    </template>
  </svg>
</template>

<style scoped src="@/ui/rule.css"></style>

<style scoped>
svg {
  display: block;
  min-width: 220px;
  overflow: visible;
}

.grid {
  stroke: var(--hair);
}

.hatch {
  stroke: var(--brick);
  stroke-width: 1.2;
  opacity: 0.4;
}

.guarded {
  fill: var(--brick);
  opacity: 0.16;
}
</style>
