<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useDragging } from '@/today/dragging'
import { timeScale } from '@/today/timeScale'
import { drawnOn, stacked, withoutWaiting, workOf, type Block } from '@/today/today'
import { clockTime } from '@/ui/dates'
import { stepWords } from '@/ui/phrases'

/**
 * A lane for each person, station and room: set-up dashed, hands on solid, unattended hatched. The wheel
 * over the hours zooms; a block that is dragged is to be pinned where it is dropped.
 */
const props = defineProps<{ lanes: Schemas['LaneView'][]; now: number }>()
const hours = defineModel<number>('hours', { required: true })
const emit = defineEmits<{ look: [block: Block, start: string] }>()
const ROW = 16
const MIN_HOURS = 4
const MAX_HOURS = 168
const TITLES = {
  person: t('today.people'),
  station: t('today.stations'),
  enclosure: t('today.rooms-and-chambers'),
} as const
const scale = computed(() => timeScale(props.now, hours.value, workOf(props.lanes)))
const groups = computed(() =>
  (['person', 'station', 'enclosure'] as const).map((kind) => ({
    kind,
    title: TITLES[kind],
    lanes: props.lanes
      .filter((lane) => lane.kind === kind)
      .map((lane) => ({
        name: lane.name,
        drawn: stacked(
          drawnOn(kind === 'person' ? withoutWaiting(lane.blocks) : lane.blocks, scale.value),
        ),
      }))
      .filter((lane) => kind === 'person' || lane.drawn.rows.length),
  })),
)
const number = (block: Block) => block.job_number ?? block.test
const said = (block: Block) =>
  t('today.of-to', {
    step: stepWords(block.step),
    test: block.test,
    begins: clockTime(block.begins),
    end: clockTime(block.end),
    why: block.why,
  })
/** The blocks of one job are lit together. */
const lit = ref<number | null>(null)
const keyOf = (block: Block) => `${block.id} ${block.step}`

function zoom(event: WheelEvent) {
  const requested = hours.value * (event.deltaY > 0 ? 1.25 : 0.8)
  hours.value = Math.min(Math.max(requested, MIN_HOURS), MAX_HOURS)
}

const { take, move, drop, press, shiftOf } = useDragging(keyOf, (block, by) => {
  const start = by ? scale.value.momentAt(scale.value.at(block.start) + by).toISOString() : null
  emit('look', block, start ?? block.start)
})
</script>

<template>
  <div class="strip">
    <div class="ruler mono small" :title="t('today.turn-the-wheel-to-zoom')" @wheel.prevent="zoom">
      <span
        v-for="mark in scale.marks"
        :key="mark.at"
        aria-hidden="true"
        :style="{ left: `${mark.at}%` }"
        >{{ mark.text }}</span
      >
    </div>
    <section v-for="group in groups" :key="group.kind">
      <h3>{{ group.title }}</h3>
      <div v-for="lane in group.lanes" :key="lane.name" class="lane">
        <span class="name" :title="lane.name">{{ lane.name }}</span>
        <div class="track" :style="{ height: `${Math.max(30, lane.drawn.count * ROW)}px` }">
          <i v-for="mark in scale.marks" :key="mark.at" :style="{ left: `${mark.at}%` }" />
          <u
            v-for="fold in scale.folds"
            :key="fold.left"
            :title="fold.text"
            :style="{ left: `${fold.left}%`, width: `${fold.width}%` }"
          />
          <button
            v-for="each in lane.drawn.rows"
            :key="keyOf(each.block)"
            class="block"
            :class="{
              late: each.block.late,
              lit: lit !== null && lit === each.block.job_id,
              dim: lit !== null && lit !== each.block.job_id,
              pinned: each.block.pinned,
            }"
            :style="{
              left: `${each.begins + shiftOf(each.block)}%`,
              top: `${(100 * each.row) / lane.drawn.count}%`,
              height: `${100 / lane.drawn.count}%`,
              width: `${each.setUp + each.hands + each.alone}%`,
            }"
            :title="said(each.block)"
            :aria-label="said(each.block)"
            @pointerdown="take($event, each.block)"
            @pointermove="move"
            @pointerup="drop(each.block)"
            @click="press(each.block)"
            @pointerenter="lit = each.block.job_id"
            @pointerleave="lit = null"
            @focus="lit = each.block.job_id"
            @blur="lit = null"
          >
            <b v-if="each.setUp" class="set-up" :style="{ flexGrow: each.setUp }" />
            <b v-if="each.hands" class="hands" :style="{ flexGrow: each.hands }"
              ><span v-if="each.hands >= each.alone" class="mono">{{ number(each.block) }}</span></b
            >
            <b v-if="each.alone" class="alone" :style="{ flexGrow: each.alone }"
              ><span v-if="each.alone > each.hands" class="mono">{{ number(each.block) }}</span></b
            >
          </button>
        </div>
      </div>
    </section>
  </div>
</template>

<style scoped>
.strip {
  min-width: 0;
}

.ruler,
.track {
  position: relative;
}

.ruler {
  height: 20px;
  margin-left: 132px;
  color: var(--ink-2);
}

.ruler span {
  position: absolute;
  transform: translateX(-50%);
  white-space: nowrap;
}

h3 {
  margin: 6px 0 2px;
  color: var(--ink-2);
  font-size: 13px;
  font-weight: 400;
}

.lane {
  display: grid;
  grid-template-columns: 124px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
  margin-bottom: 3px;
}

.name {
  overflow: hidden;
  font-size: 14.5px;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.track {
  height: 30px;
  overflow: hidden;
  border-left: 3px solid var(--brick);
  background: var(--sunk);
}

.track i {
  position: absolute;
  inset: 0 auto 0 0;
  width: 1px;
  background: var(--hair);
}

.block {
  position: absolute;
  display: flex;
  min-width: 4px;
  padding: 2px 0;
  border: 0;
  background: none;
  cursor: pointer;
}

.block b {
  flex: 0 0 0;
  min-width: 0;
  height: 100%;
}

.set-up {
  border: 1.5px dashed var(--ochre);
}

.hands {
  background: var(--blue);
}

.late .hands {
  background: var(--brick);
}

.alone {
  border: 1px solid var(--ink-3);
  background: repeating-linear-gradient(
    -45deg,
    transparent 0 5px,
    color-mix(in srgb, var(--ink-3) 45%, transparent) 5px 6px
  );
}

@media (max-width: 640px) {
  .ruler {
    margin-left: 92px;
  }

  .ruler span:nth-child(even) {
    display: none;
  }

  .lane {
    grid-template-columns: 84px minmax(0, 1fr);
  }
}

/* The number of the job stands where the bar has room for it. */
.block {
  touch-action: none;
}

.hands,
.alone {
  display: flex;
  container-type: size;
  align-items: center;
}

.block span {
  padding: 0 4px;
  white-space: nowrap;
  color: var(--on-blue);
  font-size: 11.5px;
  font-weight: 400;
  line-height: 13px;
}

.alone span {
  margin-left: auto;
  background: var(--page);
  color: var(--ink);
}

@container (max-width: 52px) {
  .block span {
    display: none;
  }
}

.dim {
  opacity: 0.35;
}

.lit b {
  box-shadow: inset 0 0 0 2px var(--ink);
}

.pinned::after {
  position: absolute;
  top: 1px;
  left: 2px;
  width: 6px;
  height: 6px;
  border-radius: 50%;
  background: var(--tape);
  content: '';
}

.track u {
  position: absolute;
  inset: 0 auto;
  background: repeating-linear-gradient(90deg, var(--ground) 0 3px, transparent 3px 7px);
}
</style>
