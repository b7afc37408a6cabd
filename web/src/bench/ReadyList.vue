<script setup lang="ts">
import { t } from '@/ui/words'
import type { BenchView } from '@/bench/bench'
import ActButton from '@/ui/ActButton.vue'

/** The ready check: what the device ticks, and what was confirmed by hand. */
defineProps<{ checks: BenchView['checks']; busy: boolean }>()
defineEmits<{ takeBack: [number: number] }>()
</script>

<template>
  <ul class="checks">
    <li v-for="check in checks" :key="check.code" :class="{ ticked: check.ticked }">
      <svg width="18" height="18" viewBox="0 0 20 20" aria-hidden="true">
        <path d="M2 2h16v16H2z" />
        <path v-if="check.ticked" d="M4 10l5 5 9-12" class="tick" />
      </svg>
      <p :title="check.reason">
        {{ check.title }}<span v-if="check.reads" class="mono">&ensp;{{ check.text }}</span>
        <ActButton
          v-if="check.event !== null"
          kind="link"
          :disabled="busy"
          @click="$emit('takeBack', check.event)"
        >
          {{ t('bench.undo') }}
        </ActButton>
      </p>
    </li>
  </ul>
</template>

<style scoped>
.checks {
  display: grid;
  gap: 7px;
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr);
  gap: 10px;
  font-size: 15px;
  line-height: 1.3;
}

.ticked {
  color: var(--ink-2);
}

path {
  fill: none;
  stroke: var(--ink-3);
  stroke-width: 1.5;
}

.tick {
  stroke: var(--ink);
  stroke-width: 2.6;
}

.link {
  min-height: 20px;
  margin-left: 8px;
}

.mono {
  color: var(--ink-2);
  font-size: 14px;
}
</style>
