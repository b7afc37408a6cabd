<script setup lang="ts">
import type { StationView } from '@/api/client'

/** The short list before a run: some items tick themselves, some are seen and confirmed. */
const props = defineProps<{ station: StationView; confirmed: Set<string> }>()
const isDone = (check: StationView['checks'][number]) =>
  check.ticked || props.confirmed.has(check.code)
</script>

<template>
  <ul class="checks">
    <li v-for="check in station.checks" :key="check.code" :class="{ ticked: isDone(check) }">
      <svg width="18" height="18" viewBox="0 0 20 20" aria-hidden="true">
        <path d="M2 2h16v16H2z" />
        <path v-if="isDone(check)" d="M4 10l5 5 9-12" class="tick" />
      </svg>
      <p :title="check.reason">
        {{ check.title }}<span v-if="check.says" class="mono">&ensp;{{ check.says }}</span>
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
  grid-template-columns: 18px 1fr;
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

.mono {
  color: var(--ink-2);
  font-size: 14px;
  white-space: nowrap;
}
</style>
