<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useNow } from '@/app/clock'
import { fixed } from '@/ui/numbers'

/** A clock of the bench: what is left of it, large, over a tape that fills. */
const props = defineProps<{ clock: Schemas['BenchClock']; small?: boolean }>()
const now = useNow()
const elapsed = computed(() => Math.max((now.value - Date.parse(props.clock.since)) / 1000, 0))
const left = computed(() => props.clock.seconds - elapsed.value)
const share = computed(() => Math.min(elapsed.value / props.clock.seconds, 1))
/** Past the end of a clock of at least so long, all is well; past the others it is late. */
const isLate = computed(() => left.value < 0 && props.clock.kind !== 'at-least')
const shown = (seconds: number) => {
  const whole = Math.floor(Math.abs(seconds))
  return whole < 100
    ? fixed(whole, 0)
    : `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`
}
const text = computed(() => {
  const unit = Math.abs(left.value) < 100 ? 's ' : ''
  if (left.value >= 0) return t('bench.to-go-2', { unit })
  return isLate.value ? t('bench.over-time', { unit }) : t('bench.over-completed', { unit })
})
</script>

<template>
  <figure class="clock" :class="{ small }">
    <figcaption>
      {{ clock.title }}, {{ clock.kind.replace('-', ' ') }}
      <span class="mono">{{ shown(clock.seconds) }}{{ clock.seconds < 100 ? ' s' : '' }}</span>
    </figcaption>
    <p class="mono count" :class="{ over: isLate }" role="timer">
      {{ shown(left) }} <span class="unit">{{ text }}</span>
    </p>
    <div class="tape"><span :style="{ width: `${100 * share}%` }" /></div>
  </figure>
</template>

<style scoped>
.clock {
  display: grid;
  gap: 4px;
  margin: 0;
}

.count {
  display: flex;
  gap: 18px;
  align-items: baseline;
  font-size: 96px;
  font-weight: 700;
  line-height: 1;
}

.small .count {
  font-size: 34px;
}

.unit {
  font-size: 24px;
  font-weight: 400;
}

.small .unit {
  font-size: 17px;
}

.over {
  color: var(--brick);
}

.tape {
  height: 14px;
  background: var(--sunk);
}

.small .tape {
  height: 8px;
}

.tape span {
  display: block;
  height: 100%;
  background: repeating-linear-gradient(90deg, var(--tape) 0 9px, transparent 9px 10px);
}
</style>
