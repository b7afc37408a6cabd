<script setup lang="ts">
import type { StationView } from '@/api/client'

/** The short list before a run: some items tick themselves, some are seen and confirmed. */
defineProps<{ station: StationView; confirmed: Set<string> }>()
</script>

<template>
  <ul class="checks">
    <li
      v-for="check in station.checks"
      :key="check.code"
      :class="{ ticked: check.ticked || confirmed.has(check.code) }"
    >
      <svg width="20" height="20" viewBox="0 0 20 20" aria-hidden="true">
        <path d="M2 2h16v16H2z" />
        <path v-if="check.ticked || confirmed.has(check.code)" d="M4 10l5 5 9-12" class="tick" />
      </svg>
      <div>
        <p>
          {{ check.title }} <span v-if="check.says" class="mono quiet">{{ check.says }}</span>
        </p>
        <p v-if="!(check.ticked || confirmed.has(check.code))" class="quiet small">
          {{ check.reason }}
        </p>
      </div>
    </li>
  </ul>
</template>

<style scoped>
.checks {
  display: grid;
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: 20px 1fr;
  gap: 10px;
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
  font-size: 14px;
}
</style>
