<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import RuledTable from '@/ui/RuledTable.vue'

/** A pack unfolded, its faces numbered: where it was dropped, and where the next drop goes. */
const props = defineProps<{
  items: Record<string, number | string | boolean | null>[]
  /** The position that is next, by its digits. */
  next: string
}>()
const FACES = [
  { face: '1', x: 120, y: 0, w: 150, h: 90 },
  { face: '2', x: 270, y: 90, w: 100, h: 90 },
  { face: '5', x: 120, y: 90, w: 150, h: 90 },
  { face: '4', x: 20, y: 90, w: 100, h: 90 },
  { face: '3', x: 120, y: 180, w: 150, h: 90 },
  { face: '6', x: 370, y: 90, w: 150, h: 90 },
]
const marked = computed(() => props.next.split('-'))
const drops = (face: string) =>
  props.items.filter((item) => String(item.position).split('-').includes(face)).length
const DAMAGE = ['none', 'slight', 'marked', 'severe']
</script>

<template>
  <div class="drops">
    <svg viewBox="0 0 540 274" role="img" :aria-label="t('bench.the-pack-unfolded')">
      <g v-for="face in FACES" :key="face.face">
        <rect
          :x="face.x + 1"
          :y="face.y + 1"
          :width="face.w"
          :height="face.h"
          :class="{ next: marked.includes(face.face) }"
        />
        <text :x="face.x + face.w / 2" :y="face.y + face.h / 2 + 8" text-anchor="middle">
          {{ face.face }}
        </text>
        <text v-if="drops(face.face)" :x="face.x + 10" :y="face.y + face.h - 10" class="count">
          {{ '•'.repeat(drops(face.face)) }}
        </text>
      </g>
    </svg>
    <RuledTable v-if="items.length" dense>
      <tr>
        <th>{{ t('bench.drop') }}</th>
        <th>{{ t('bench.on') }}</th>
        <th class="right">mm</th>
        <th>{{ t('bench.outside') }}</th>
        <th>{{ t('bench.inside') }}</th>
        <th>{{ t('bench.leak') }}</th>
      </tr>
      <tr v-for="(item, place) in items" :key="place">
        <td class="mono">{{ place + 1 }}</td>
        <td class="mono">{{ item.position }}</td>
        <td class="mono right">{{ item.height_mm }}</td>
        <td>{{ DAMAGE[Number(item.damage_outside)] }}</td>
        <td>{{ DAMAGE[Number(item.damage_inside)] }}</td>
        <td>{{ item.leak ? t('bench.leaks') : t('bench.tight') }}</td>
      </tr>
    </RuledTable>
  </div>
</template>

<style scoped>
.drops {
  display: grid;
  gap: 16px;
}

svg {
  width: 100%;
  max-width: 620px;
}

rect {
  fill: var(--sunk);
  stroke: var(--ink);
  stroke-width: 1.6;
}

.next {
  fill: var(--blue-wash);
  stroke: var(--blue);
  stroke-width: 3;
}

text {
  fill: var(--ink);
  font-family: var(--mono);
  font-size: 24px;
  font-weight: 700;
}

.count {
  fill: var(--brick);
  font-size: 20px;
}
</style>
