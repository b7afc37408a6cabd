<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import { netOf, seen, type Sunk } from '@/bench/procedures/bent'
import BigFigures from '@/bench/procedures/BigFigures.vue'
import { useFigures, type ProcedureProps } from '@/bench/procedures/figures'
import RecordedChart from '@/bench/procedures/RecordedChart.vue'
import { fixed } from '@/ui/numbers'

/** A pallet: what its middle does, and, once it was read, how it was bent over its plan. */
const props = defineProps<ProcedureProps>()
defineEmits<{ working: [] }>()
const isPush = computed(() => props.view.drawing?.y.column === 'force_n')
/** Before a run the rig shows its force and the gap; each value keeps the unit of its channel. */
const isRun = computed(() => props.recorded.isLive.value || Boolean(props.recorded.shown.value))
const { upper, lower, figure, unitOr, opens, titles, device } = useFigures(
  props,
  'force_n',
  'gap_mm',
)
const units = computed(() => {
  if (!isRun.value) return { upper: 'N', lower: 'mm gap' }
  return isPush.value ? { upper: 'N', lower: 'mm' } : { upper: 'mm', lower: 's' }
})

interface Channel {
  name: string
  deflection_full: number
}
const channels = computed(
  () => (props.recorded.shown.value?.result?.channels ?? []) as unknown as Channel[],
)
const sunk = computed<Sunk[]>(() =>
  props.view.sensors.flatMap((sensor) => {
    const channel = channels.value.find((row) => row.name === sensor.name)
    return channel && sensor.name !== 'platen'
      ? [{ name: sensor.name, x: sensor.x_mm, y: sensor.y_mm, mm: channel.deflection_full }]
      : []
  }),
)
const net = computed(() => netOf(sunk.value))
const flat = computed(() => netOf(sunk.value.map((sensor) => ({ ...sensor, mm: 0 }))))
const places = computed(() =>
  sunk.value.map((sensor) => ({
    ...sensor,
    ...seen(sunk.value, sensor.x, sensor.y, sensor.mm),
  })),
)
</script>

<template>
  <BigFigures
    :first="{
      value: upper,
      unit: unitOr(units.upper),
      digits: 1,
      text: figure,
      title: titles.upper,
    }"
    :second="{ value: lower, unit: units.lower, digits: 1, title: titles.lower }"
    :device="device && { ...device, unit: 'N' }"
    :opens="opens"
    :set-up="view.set_up"
    @open="$emit('working')"
  />
  <figure v-if="net.length">
    <svg
      viewBox="0 0 660 270"
      role="img"
      :aria-label="t('bench.the-pallet-under-full-load-sag-drawn')"
    >
      <polyline v-for="(line, place) in flat" :key="`f${place}`" :points="line" class="flat" />
      <polyline v-for="(line, place) in net" :key="place" :points="line" class="net" />
      <g v-for="place in places" :key="place.name">
        <circle :cx="place.x" :cy="place.y" r="4" />
        <text :x="place.x + 8" :y="place.y + 5">{{ place.name }} {{ fixed(place.mm, 1) }}</text>
      </g>
    </svg>
    <figcaption class="small quiet">
      {{ t('bench.sag-under-full-load-in-mm-drawn-larger') }}
    </figcaption>
  </figure>
  <RecordedChart v-else :view="view" :recorded="recorded" />
</template>

<style scoped>
figure {
  margin: 12px 0 0;
}

svg {
  width: 100%;
  max-width: 760px;
}

polyline {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.1;
}

.flat {
  stroke: var(--hair);
}

circle {
  fill: var(--blue);
}

text {
  fill: var(--ink);
  font-family: var(--mono);
  font-size: 14px;
  font-weight: 600;
  paint-order: stroke;
  stroke: var(--page);
  stroke-width: 4;
}
</style>
