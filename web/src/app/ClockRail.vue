<script setup lang="ts">
import { t } from '@/ui/words'
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { lineIsLost } from '@/api/changes'
import { useAlarms, type Alarm } from '@/app/alarms'
import { useClocks, useNow } from '@/app/clock'
import { useKeys } from '@/ui/keys'
import { clockTime } from '@/ui/dates'
import { stretch } from '@/ui/phrases'
import ActButton from '@/ui/ActButton.vue'

/** The running clocks, on every screen: tapes that run out. */
const TAPE_PX = 228
const clocks = useClocks()
const now = useNow()

const AFTER: Record<string, string> = {
  'at-least': 'done',
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
      finished: left <= 0 && clock.kind === 'at-least',
      overrun: left <= 0 && clock.kind !== 'at-least',
      shown: left > 0 ? stretch(left) : AFTER[clock.kind],
      share: Math.min(Math.max((end - now.value) / (end - start), 0), 1),
      until: clockTime(clock.ends_at),
    }
  }),
)
const ALARM_WORDS: Record<Alarm, string> = {
  flash: 'flashes',
  sound: t('app.flash-and-sound'),
  none: t('app.no-alarm'),
}
const ALARM_NAMES: Record<Alarm, string> = {
  flash: t('app.flash-only'),
  sound: t('app.sound-on'),
  none: t('app.no-alarm-2'),
}
const wasSet = computed(() => clocks.data.value?.clock_set ?? null)
const { alarm, flashing, change } = useAlarms(tapes)
const all = ref(false)
const { width } = useElementSize(useTemplateRef('shown'))
const many = computed(
  () => width.value > 0 && tapes.value.length > Math.max(Math.floor(width.value / TAPE_PX), 1),
)
useKeys(() => [
  {
    key: 'k',
    text: t('app.show-all-running-clocks-or-only-the'),
    act: () => (all.value = !all.value),
  },
])
const failing = computed(
  () => lineIsLost.value || clocks.isError.value || clocks.failureCount.value > 1,
)
</script>

<template>
  <section
    class="rail"
    :class="{ flashing, all: all && many }"
    :aria-label="t('app.running-clocks')"
    :aria-live="flashing ? 'assertive' : 'off'"
  >
    <p v-if="failing" class="alone" role="status">
      {{ t('app.the-connection-to-the-server-is-lost') }}
    </p>
    <p v-else-if="clocks.data.value && tapes.length === 0" class="alone">
      {{ t('app.no-clock-is-running-start-conditioning') }}
    </p>
    <div v-show="!failing && (wasSet || tapes.length)" ref="shown" class="tapes">
      <p v-if="wasSet" class="tape overrun" role="status" :title="wasSet.text">
        <span class="left mono">{{ clockTime(wasSet.at) }}</span>
        <span class="set-words">{{ wasSet.text }}</span>
      </p>
      <router-link
        v-for="tape in tapes"
        :key="tape.whose + tape.starts_at + tape.text"
        class="tape"
        :class="{ finished: tape.finished, overrun: tape.overrun }"
        :to="tape.leads_to"
        :title="
          t('app.if-missed', { text: tape.text, whose: tape.whose, when_missed: tape.when_missed })
        "
      >
        <span class="left mono"
          >{{ tape.shown
          }}<small v-if="!tape.finished">{{ t('app.until', { until: tape.until }) }}</small></span
        >
        <span class="text">{{ tape.finished ? tape.whose : tape.text }}</span>
        <span class="text whose">{{ tape.finished ? t('app.ready-to-test') : tape.whose }}</span>
        <span class="strip"><span :style="{ width: `${tape.share * 100}%` }" /></span>
      </router-link>
    </div>
    <p v-if="!failing && tapes.length" class="small-acts">
      <ActButton
        kind="plain"
        :title="t('app.when-a-clock-runs-out', { ALARM_WORDS: ALARM_WORDS[alarm] })"
        @click="change"
      >
        {{ ALARM_NAMES[alarm] }}
      </ActButton>
      <ActButton v-if="many" kind="plain" @click="all = !all">
        {{ all ? t('app.fewer') : t('app.all', { tapes: tapes.length }) }} <kbd>k</kbd>
      </ActButton>
    </p>
  </section>
</template>

<style scoped>
.rail {
  display: flex;
  grid-column: 1 / -1;
  height: 76px;
  overflow: hidden;
  background: var(--rail);
  color: var(--on-rail);
}

.tapes {
  display: grid;
  flex: 1;
  grid-template-columns: repeat(auto-fill, minmax(228px, 1fr));
  grid-auto-rows: 76px;
  overflow: hidden;
}

.rail.all {
  height: auto;
  max-height: 46vh;
  overflow: auto;
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
  display: grid;
  flex: none;
  align-content: center;
  padding: 0 12px;
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
  align-content: start;
  min-width: 0;
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
  display: flex;
  gap: 12px;
  align-items: baseline;
  justify-content: space-between;
  font-size: 18px;
  font-weight: 700;
  line-height: 1.2;
}

.left small {
  color: var(--on-rail-2);
  font-size: 13px;
  font-weight: 400;
}

.overrun .left {
  color: #f0877b;
}

.finished .left {
  color: var(--tape);
}

.text {
  overflow: hidden;
  font-size: 14px;
  line-height: 1.25;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.set-words {
  overflow: hidden;
  font-size: 12px;
  line-height: 1.2;
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
}

.finished .strip {
  background: repeating-linear-gradient(90deg, var(--tape) 0 2px, transparent 2px 10px);
}
</style>
