<script setup lang="ts">
import { t } from '@/ui/words'
import { fixed } from '@/ui/numbers'
import { computed, useId } from 'vue'
import type { PlacedSpecimen, SheetView } from '@/api/client'
import HatchPatterns from '@/ui/HatchPatterns.vue'

/** The tests of a sheet with their hatches, and every specimen in cutting order. */
const props = defineProps<{ sheet: SheetView; selected: number | null }>()
const emit = defineEmits<{ pick: [id: number] }>()
const name = useId()

const order = computed(() =>
  [...props.sheet.specimens].sort(
    (a, b) => (a.y_mm ?? 1e9) - (b.y_mm ?? 1e9) || (a.x_mm ?? 0) - (b.x_mm ?? 0),
  ),
)
const placeOf = computed(() => new Map(props.sheet.tests.map((test, place) => [test.id, place])))
const hatch = (testId: number) => `url(#${name}-${placeOf.value.get(testId)})`

function edges(placedSpecimen: PlacedSpecimen): string {
  if (placedSpecimen.x_mm === null || placedSpecimen.y_mm === null) return t('cutting.not-placed')
  const across = fixed(placedSpecimen.x_mm - placedSpecimen.across_mm / 2, 1).padStart(7)
  const along = fixed(placedSpecimen.y_mm - placedSpecimen.along_mm / 2, 1).padStart(7)
  return `${across}${along}`
}
</script>

<template>
  <svg width="0" height="0" class="defs" aria-hidden="true">
    <HatchPatterns :tests="sheet.tests" :name="name" :unit="0.7" />
  </svg>
  <ul class="tests">
    <li v-for="test in sheet.tests" :key="test.id">
      <svg width="30" height="18" aria-hidden="true">
        <rect x=".7" y=".7" width="28.6" height="16.6" class="swatch" :fill="hatch(test.id)" />
      </svg>
      <span>
        <b v-if="sheet.tests.length > 1" class="mono">{{ test.number }}</b> {{ test.title }}
        <span class="quiet small">{{ test.size_text }}</span>
      </span>
      <span class="mono count" :class="{ short: test.placed < test.required }"
        >{{ test.placed }}<span class="quiet">/{{ test.required }}</span></span
      >
      <p v-for="caution in test.cautions" :key="caution" class="caution">{{ caution }}</p>
    </li>
  </ul>
  <p class="mono quiet small cols">
    <span>{{ t('cutting.in-cutting-order') }}</span><span
      >{{ sheet.moulded ? t('cutting.left-near-edge') : t('cutting.selvedge-cut-end') }}, mm</span
    >
  </p>
  <ul class="list">
    <li v-for="specimen in order" :key="specimen.id">
      <button
        class="plain"
        :class="{ on: specimen.id === selected }"
        @click="emit('pick', specimen.id)"
      >
        <svg width="18" height="12" aria-hidden="true">
          <rect
            x=".6"
            y=".6"
            width="16.8"
            height="10.8"
            class="swatch"
            :fill="hatch(specimen.test_id)"
          />
        </svg>
        <b class="mono">{{ specimen.name }}</b>
        <span class="works"
          >{{ specimen.works_on }}<template v-if="specimen.spare">{{ t('cutting.spare') }}</template
          ><template v-if="specimen.locked">{{ t('cutting.locked') }}</template></span
        >
        <span class="mono at">{{ edges(specimen) }}</span>
      </button>
    </li>
  </ul>
</template>

<style scoped>
.defs {
  position: absolute;
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

.tests li {
  display: grid;
  grid-template-columns: 30px 1fr auto;
  gap: 0 12px;
  align-items: baseline;
  padding: 5px 0;
  border-bottom: 1px solid var(--hair);
  line-height: 1.25;
}

.tests svg {
  align-self: center;
}

.swatch {
  stroke: var(--ink);
}

.short {
  color: var(--brick);
  font-weight: 700;
}

.caution {
  grid-column: 2 / -1;
  color: var(--brick);
  font-size: 14px;
}

.cols {
  display: flex;
  gap: 10px;
  justify-content: space-between;
  margin: 4px 0 -10px;
}

.list {
  overflow: auto;
  min-height: 150px;
  border-top: 1.5px solid var(--ink);
}

.list button {
  display: flex;
  gap: 8px;
  width: 100%;
  min-height: 32px;
  align-items: center;
  border-bottom: 1px solid var(--hair);
  font-size: 14.5px;
  line-height: 1.2;
  text-align: left;
}

.list svg {
  flex: none;
}

.list b {
  min-width: 44px;
  white-space: nowrap;
}

.works {
  min-width: 0;
}

.at {
  flex: none;
  margin-left: auto;
  white-space: pre;
}

.on {
  background: var(--blue-wash);
}
</style>
