<script setup lang="ts">
import { computed, ref } from 'vue'
import { lineIsLost } from '@/api/changes'
import { useAlarms } from '@/app/alarms'
import { useClocks, useNow } from '@/app/clock'
import { useKeys } from '@/ui/keys'
import { clockTime, stretch } from '@/ui/words'

/** The running clocks, on every screen: tapes that run out. */
const FEW = 5
const clocks = useClocks()
const now = useNow()

const AFTER: Record<string, string> = {
  'at-least': 'served',
  'at-most': 'overrun',
  exactly: 'now',
}
const tapes = computed(() =>
  (clocks.data.value?.clocks ?? []).map((clock) => {
    const start = Date.parse(clock.starts_at)
    const end = Date.parse(clock.ends_at)
    const left = end - now.value
    return {
      ...clock,
      left,
      served: left <= 0 && clock.kind === 'at-least',
      overrun: left <= 0 && clock.kind !== 'at-least',
      shown: left > 0 ? stretch(left) : AFTER[clock.kind],
      share: Math.min(Math.max((end - now.value) / (end - start), 0), 1),
      until: clockTime(clock.ends_at),
    }
  }),
)
const { isOn, flashing, toggle } = useAlarms(tapes)
const all = ref(false)
const many = computed(() => tapes.value.length > FEW)
useKeys(() => [
  { key: 'k', says: 'all running clocks, or the first', act: () => (all.value = !all.value) },
])
const failing = computed(
  () => lineIsLost.value || clocks.isError.value || clocks.failureCount.value > 1,
)
</script>

<template>
  <section
    class="rail"
    :class="{ flashing, all: all && many }"
    aria-label="Running clocks"
    :aria-live="flashing ? 'assertive' : 'off'"
  >
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
    <p v-if="!failing && tapes.length" class="small-acts">
      <button class="plain" :aria-pressed="isOn" @click="toggle">
        {{ isOn ? 'Sound on' : 'Sound off' }}
      </button>
      <button v-if="many" class="plain" @click="all = !all">
        {{ all ? 'fewer' : `all ${tapes.length}` }} <kbd>k</kbd>
      </button>
    </p>
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

.rail.all {
  flex-wrap: wrap;
  height: auto;
  max-height: 46vh;
  overflow: auto;
}

.rail.all .tape {
  height: 76px;
}

.rail.flashing {
  animation: flash 0.8s steps(2, start) 4;
}

@keyframes flash {
  50% {
    background: var(--tape);
  }
}

@media (prefers-reduced-motion: reduce) {
  .rail.flashing {
    outline: 4px solid var(--tape);
    animation: none;
  }
}

.small-acts {
  position: sticky;
  right: 0;
  display: grid;
  flex: none;
  align-content: center;
  margin-left: auto;
  padding: 0 12px;
  background: var(--rail);
}

.small-acts button {
  min-height: 32px;
  color: var(--on-rail-2);
  font-size: 14px;
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
