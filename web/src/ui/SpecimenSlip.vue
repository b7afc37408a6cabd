<script setup lang="ts">
import { t } from '@/ui/words'
import { signed } from '@/ui/numbers'
import { computed } from 'vue'
import type { SpecimenView, TestView } from '@/api/client'

/** A small outline in the shape of the test; torn or broken, void, in hand, to come, spare. */
const props = defineProps<{
  specimen: SpecimenView
  shape: TestView['shape']
  inHand?: boolean
}>()
const BODIES: Record<TestView['shape'], string> = {
  trousers: 'M2 2h30v58h-30z',
  strip: 'M8 2h18v58h-18z',
  square: 'M2 16h30v30h-30z',
  disc: 'M17 15a16 16 0 1 1 0 32a16 16 0 1 1 0 -32z',
  dumbbell: 'M5 2h24v12q-7 3 -7 10v14q0 7 7 10v12h-24v-12q7 -3 7 -10v-14q0 -7 -7 -10z',
  block: 'M9 6h16v50h-16z',
}
const BREAKS: Partial<Record<TestView['shape'], string>> = {
  strip: 'M8 32l4-3 3 5 4-6 3 5 4-3',
  dumbbell: 'M12 32l3-3 2 5 2-5 3 3',
  disc: 'M17 31l-6-6M17 31l7-5M17 31l-3 8M17 31l6 5',
  square: 'M10 24h14M10 31h14M10 38h14',
  block: 'M9 31l5-3 4 5 7-4',
}
/** What a slip has room for. */
const SHORT: Partial<Record<string, string>> = {
  void: t('ui.void'),
  running: t('ui.running'),
  ready: t('ui.ready'),
  conditioning: t('ui.in-room'),
}
const text = computed(() => {
  const { state, spare, called } = props.specimen
  if (state === 'tested') return signed(props.specimen.value_text ?? '–')
  if (state === 'to-look-at') return t('ui.check')
  if (spare && !called && state !== 'void') return t('ui.spare')
  return SHORT[state] ?? state
})
const torn = computed(() => ['tested', 'void', 'to-look-at'].includes(props.specimen.state))
const idle = computed(() => props.specimen.spare && !props.specimen.called)
</script>

<template>
  <button
    class="plain slip"
    :class="[specimen.state, { hand: inHand, idle, spare: specimen.spare }]"
    :title="specimen.works_on"
    :aria-pressed="inHand"
  >
    <svg viewBox="0 0 34 62" width="30" height="55" aria-hidden="true">
      <path class="body" :d="BODIES[shape]" />
      <template v-if="shape === 'trousers'">
        <path v-if="!torn" class="slit" d="M17 60V31" />
        <path v-else class="slit" d="M15.5 60V31M18.5 60V31" />
        <path v-if="torn" class="tear" d="M17 31l-1.6-3 2.8-3-2.4-3 2-3-1.4-3 1.2-3" />
      </template>
      <path v-else-if="torn" class="tear" :d="BREAKS[shape]" />
      <path v-if="specimen.state === 'void'" class="strike" d="M-1 58L35 4" />
    </svg>
    <span class="label mono">{{ specimen.label }}</span>
    <span class="text mono">{{ text }}</span>
    <span class="unseen">, {{ specimen.works_on }}</span>
  </button>
</template>

<style scoped>
.slip {
  position: relative;
  display: grid;
  flex: 0 0 auto;
  justify-items: center;
  min-width: 54px;
  padding: 7px 5px 5px;
  border: 2px solid transparent;
  border-radius: 8px;
  color: var(--ink);
  line-height: 1.2;
}

.slip:hover {
  background: color-mix(in srgb, var(--page) 60%, transparent);
}

.slip.hand {
  border-color: var(--blue);
  background: var(--page);
  transform: translateY(-3px);
}

.body {
  fill: none;
  stroke: var(--ink-3);
  stroke-width: 1.6;
}

.slit,
.tear {
  fill: none;
  stroke: var(--ink-3);
  stroke-width: 1.5;
}

.tested .body,
.to-look-at .body,
.running .body {
  fill: color-mix(in srgb, var(--ink) 9%, transparent);
  stroke: var(--ink);
}

.tested .slit,
.tested .tear,
.to-look-at .slit,
.to-look-at .tear {
  stroke: var(--ink);
}

.hand .body {
  fill: var(--blue-wash);
  stroke: var(--blue);
}

.spare .body {
  stroke-dasharray: 4 3;
}

.strike {
  stroke: var(--brick);
  stroke-width: 2.2;
}

.label {
  margin-top: 4px;
  font-size: 14.5px;
  font-weight: 700;
}

.text {
  color: var(--ink-2);
  font-size: 12.5px;
}

.idle,
.slip.void .label {
  color: var(--ink-2);
}

.slip.void .text {
  color: var(--brick);
}
</style>
