<script setup lang="ts">
import { computed } from 'vue'
import type { SpecimenView } from '@/api/client'

/** A small outline in true shape: trousers with slit; torn, void, in hand, to come, spare. */
const props = defineProps<{ specimen: SpecimenView; inHand?: boolean }>()
const words = computed(() => {
  const { state, spare, called } = props.specimen
  if (state === 'void') return 'void'
  if (state === 'tested') return props.specimen.value_text ?? '–'
  if (state === 'to-look-at') return 'look'
  if (state === 'running') return 'runs'
  if (spare && !called) return 'spare'
  if (state === 'ready') return 'ready'
  return state === 'conditioning' ? 'hangs' : state
})
const torn = computed(() => ['tested', 'void', 'to-look-at'].includes(props.specimen.state))
const idle = computed(() => props.specimen.spare && !props.specimen.called)
</script>

<template>
  <button
    class="plain slip"
    :class="[specimen.state, { hand: inHand, idle, spare: specimen.spare }]"
    :aria-label="`${specimen.label}, ${words}, ${specimen.works_on}`"
    :aria-pressed="inHand"
  >
    <svg viewBox="0 0 34 62" width="30" height="55" aria-hidden="true">
      <path class="body" d="M2 2h30v58h-30z" />
      <path v-if="!torn" class="slit" d="M17 60V31" />
      <path v-else class="slit" d="M15.5 60V31M18.5 60V31" />
      <path v-if="torn" class="tear" d="M17 31l-1.6-3 2.8-3-2.4-3 2-3-1.4-3 1.2-3" />
      <path v-if="specimen.state === 'void'" class="strike" d="M-1 58L35 4" />
    </svg>
    <span class="label mono">{{ specimen.label }}</span>
    <span class="words mono">{{ words }}</span>
  </button>
</template>

<style scoped>
.slip {
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

.hand {
  border-color: var(--blue);
  background: var(--page) !important;
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

.words {
  color: var(--ink-2);
  font-size: 12.5px;
}

.idle,
.slip.void .label {
  color: var(--ink-2);
}

.slip.void .words {
  color: var(--brick);
}
</style>
