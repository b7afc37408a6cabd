<script setup lang="ts">
import { computed } from 'vue'
import { lineIsLost } from '@/api/changes'
import { useClocks, useNow } from '@/app/clock'
import { clockTime, stretch } from '@/ui/words'

/** The running clocks, on every screen: tapes that run out. */
const clocks = useClocks()
const now = useNow()

const tapes = computed(() =>
  (clocks.data.value?.clocks ?? []).map((clock) => {
    const start = Date.parse(clock.starts_at)
    const end = Date.parse(clock.ends_at)
    const left = end - now.value
    return {
      ...clock,
      served: left <= 0 && clock.kind === 'at-least',
      overrun: left <= 0 && clock.kind === 'at-most',
      shown: left > 0 ? stretch(left) : clock.kind === 'at-most' ? 'overrun' : 'served',
      share: Math.min(Math.max((end - now.value) / (end - start), 0), 1),
      until: clockTime(clock.ends_at),
    }
  }),
)
const failing = computed(
  () => lineIsLost.value || clocks.isError.value || clocks.failureCount.value > 1,
)
</script>

<template>
  <section class="rail" aria-label="Running clocks">
    <p v-if="failing" class="alone" role="status">
      The line to the server is lost. The clocks go on in the record; looking again …
    </p>
    <p v-else-if="clocks.data.value && tapes.length === 0" class="alone">
      No clock is running. Hang specimens, and their time shows here.
    </p>
    <router-link
      v-for="tape in failing ? [] : tapes"
      :key="tape.whose + tape.starts_at + tape.says"
      class="tape"
      :class="{ served: tape.served, overrun: tape.overrun }"
      :to="tape.leads_to"
      :title="`${tape.whose}. If missed: ${tape.when_missed}`"
    >
      <span class="left mono">{{ tape.shown }}</span>
      <span class="says">{{ tape.served ? tape.whose : `${tape.says}, until ${tape.until}` }}</span>
      <span v-if="!tape.served" class="says whose">{{ tape.whose }}</span>
      <span v-else class="says whose">ready to be tested</span>
      <span class="strip"><span :style="{ width: `${tape.share * 100}%` }" /></span>
    </router-link>
  </section>
</template>

<style scoped>
.rail {
  display: flex;
  grid-column: 1 / -1;
  height: 76px;
  overflow: auto hidden;
  background: var(--rail);
  color: var(--on-rail);
  scrollbar-width: none;
}

.alone {
  align-self: center;
  padding: 0 24px;
  color: var(--on-rail-2);
  font-size: 15px;
}

.tape {
  position: relative;
  display: grid;
  flex: 0 0 228px;
  align-content: start;
  padding: 8px 16px 0;
  border-right: 1px solid var(--rail-hair);
  color: inherit;
  text-decoration: none;
}

.tape:focus-visible {
  outline-offset: -4px;
  outline-color: var(--tape);
}

.left {
  font-size: 18px;
  font-weight: 700;
  line-height: 1.2;
}

.overrun .left {
  color: #f0877b;
}

.served .left {
  color: var(--tape);
}

.says {
  overflow: hidden;
  font-size: 14px;
  line-height: 1.25;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.whose {
  color: var(--on-rail-2);
}

.strip {
  position: absolute;
  inset: auto 0 0;
  height: 6px;
}

.strip > span {
  display: block;
  height: 100%;
  background: repeating-linear-gradient(90deg, var(--tape) 0 9px, var(--rail) 9px 10px);
  transition: width 1s linear;
}

.served .strip {
  background: repeating-linear-gradient(90deg, var(--tape) 0 2px, transparent 2px 10px);
}
</style>
