<script setup lang="ts">
import { t } from '@/ui/words'
import { signed } from '@/ui/numbers'
import { computed } from 'vue'
import BarrelPanel from '@/bench/procedures/BarrelPanel.vue'
import ClockFigure from '@/bench/procedures/ClockFigure.vue'
import FactsLine from '@/bench/procedures/FactsLine.vue'
import DropBox from '@/bench/procedures/DropBox.vue'
import type { ProcedureProps } from '@/bench/procedures/figures'
import { dueOf, itemsOf, rodsOf, stairsOf } from '@/bench/procedures/series'
import ActButton from '@/ui/ActButton.vue'

/** A test that goes turn by turn: stairs of masses, a ladder of looks, cuts in a row, a box, grades. */
const props = defineProps<ProcedureProps>()
defineEmits<{ working: [] }>()
const items = computed(() => itemsOf(props.view))
const stairs = computed(() => stairsOf(items.value, dueOf(props.view)))
const wide = computed(() => Math.max(60 + 34 * (items.value.length + 2), 420))
const rods = computed(() => rodsOf(items.value))
const grades = computed(() =>
  props.view.series.map((series) => ({
    title: series.reading.replace(/_/g, ' '),
    shown: series.items.filter((item) => typeof item !== 'object').map(String),
    hidden: series.hidden,
  })),
)
const WORDS: Record<string, [string, string]> = {
  acceptable: [t('bench.no-longer'), 'good'],
  visible: [t('bench.no-trace'), 'visible'],
  leak: ['tight', 'leaks'],
}
const DAMAGE = ['none', 'slight', 'marked', 'severe']
/** What an item says, part by part, as it was chosen. */
const partsOf = (item: Record<string, unknown>) =>
  Object.entries(item).map(([name, value]) => {
    const title = name.replace(/_(mm|n|g|s)$/, '').replace(/_/g, ' ')
    if (typeof value === 'boolean') return WORDS[name]?.[Number(value)] ?? `${title} ${value}`
    if (name.startsWith('damage'))
      return `${title.replace(t('bench.damage'), '')}: ${DAMAGE[Number(value)]}`
    return `${title} ${String(value)}`
  })
/** Nothing was read of it yet; a specimen of a document has its result without a series. */
const isEmpty = computed(
  () =>
    !items.value.length &&
    kind.value !== 'grades' &&
    !stairs.value.due &&
    !props.specimen.value_text,
)
const kind = computed(() => {
  const { procedure } = props.view
  if (procedure === 'looks' && !('count' in (items.value[0] ?? {}))) return 'list'
  return procedure
})
</script>

<template>
  <div class="series">
    <p v-if="specimen.value_text" class="figure">
      <ActButton kind="plain" class="mono opens" @click="$emit('working')">
        {{ signed(specimen.value_text) }}
      </ActButton>
      {{ view.figure_unit }}
    </p>
    <p class="mono quiet set">{{ view.set_up }}</p>
    <BarrelPanel v-if="view.procedure === 'cuts'" :view="view" />
    <ClockFigure
      v-for="(clock, place) in view.clocks"
      :key="clock.code"
      :clock="clock"
      :small="place > 0 || items.length > 0"
    />
    <svg
      v-if="kind === 'staircase' && (items.length || stairs.due)"
      :viewBox="`0 0 ${wide} 230`"
      :style="{ maxWidth: `${wide * 1.35}px` }"
      role="img"
      :aria-label="t('bench.drops', { items: items.length })"
    >
      <polyline
        :points="
          [...stairs.stairs, ...(stairs.due ? [stairs.due] : [])]
            .map((s) => `${s.x},${s.y}`)
            .join(' ')
        "
        class="way"
      />
      <g v-for="(stair, place) in stairs.stairs" :key="place">
        <circle :cx="stair.x" :cy="stair.y" r="9" :class="{ failed: stair.failed }" />
        <text :x="stair.x" :y="stair.y + 26" text-anchor="middle">{{ stair.mass }}</text>
      </g>
      <g v-if="stairs.due && view.phase !== 'complete'">
        <circle :cx="stairs.due.x" :cy="stairs.due.y" r="11" class="due" />
        <text :x="stairs.due.x" :y="stairs.due.y + 28" text-anchor="middle" class="next">
          {{ stairs.due.mass }}
        </text>
      </g>
      <text x="44" y="225" class="key">{{ t('bench.filled-failed-hollow-did-not-fail-g') }}</text>
    </svg>
    <ol v-else-if="kind === 'looks'" class="ladder">
      <li v-for="(item, place) in items" :key="place" :class="{ bad: item.acceptable === false }">
        <span class="mono">{{ item.count }}</span>
        {{ item.acceptable === false ? t('bench.no-longer') : t('bench.good') }}
      </li>
    </ol>
    <div v-else-if="kind === 'cuts'" class="rods">
      <p v-for="(rod, place) in rods" :key="place" :class="{ out: rod.bubbles }">
        <i :style="{ width: `${Math.min(Math.max(rod.length, 3), 40) * 4}px` }" />
        <span class="mono">{{ rod.mass }}</span>
        <span v-if="rod.length" class="mono quiet">{{ rod.length }} mm</span>
        <b v-if="rod.bubbles">{{ t('bench.bubbles-discarded') }}</b>
      </p>
    </div>
    <DropBox
      v-else-if="kind === 'drops'"
      :items="items"
      :next="String(view.series[0]?.due?.position ?? '')"
    />
    <div v-else-if="kind === 'grades'" class="grades">
      <p v-for="row in grades" :key="row.title">
        <span>{{ row.title }}</span>
        <b v-for="(grade, place) in row.shown" :key="place" class="mono">{{ grade }}</b>
        <b
          v-for="place in row.hidden"
          :key="`h${place}`"
          class="mono covered"
          :title="t('bench.shown-at-the-end')"
          >?</b
        >
      </p>
    </div>
    <ol v-else-if="items.length" class="list">
      <li v-for="(item, place) in items" :key="place">{{ partsOf(item).join(' · ') }}</li>
    </ol>
    <p v-if="isEmpty" class="quiet">
      {{ t('bench.the-readings-of-appear-here', { label: view.label }) }}
    </p>
    <FactsLine :facts="view.facts" />
  </div>
</template>

<style scoped>
.series {
  display: grid;
  gap: 16px;
  align-content: start;
  min-height: 0;
  overflow-y: auto;
}

.figure {
  font-size: 20px;
}

.figure .mono {
  font-size: 46px;
  font-weight: 700;
}

.set:empty {
  display: none;
}

.set {
  text-align: right;
}

svg {
  width: 100%;
}

.way {
  fill: none;
  stroke: var(--ink-3);
  stroke-width: 1.5;
}

circle {
  fill: var(--page);
  stroke: var(--ink);
  stroke-width: 2;
}

.failed {
  fill: var(--ink);
}

.due {
  stroke: var(--blue);
  stroke-width: 3;
  stroke-dasharray: 4 3;
}

text {
  fill: var(--ink);
  font-family: var(--mono);
  font-size: 13px;
  paint-order: stroke;
  stroke: var(--page);
  stroke-width: 4;
}

.next {
  fill: var(--blue);
  font-weight: 700;
}

.key {
  fill: var(--ink-2);
}

ol {
  display: grid;
  gap: 6px;
  margin: 0;
  padding-left: 24px;
}

.ladder {
  padding: 0;
  list-style: none;
}

.ladder li {
  display: grid;
  grid-template-columns: 7ch auto;
  gap: 16px;
  padding: 6px 0 6px 14px;
  border-left: 8px solid var(--tape);
}

.ladder li .mono {
  font-size: 20px;
  font-weight: 700;
  text-align: right;
}

.ladder .bad {
  border-color: var(--brick);
}

.rods p {
  display: flex;
  gap: 14px;
  align-items: center;
  min-height: 34px;
}

.rods i {
  height: 15px;
  border: 1.5px solid var(--ink);
  border-radius: 7px;
  background: var(--ochre-wash);
}

.out {
  color: var(--ink-3);
}

.out i {
  border-style: dashed;
  background: none;
}

.grades p {
  display: flex;
  gap: 14px;
  align-items: baseline;
  padding: 8px 0;
}

.grades b {
  padding: 8px 14px;
  border: 2px solid var(--ink);
  border-radius: 4px;
  font-size: 26px;
}

.covered {
  border-style: dashed;
  color: var(--ink-3);
}
</style>
