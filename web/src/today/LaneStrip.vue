<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { drawnOn, marksOf, stacked, withoutWaiting, type Block } from '@/today/today'
import { clockTime } from '@/ui/dates'
import { stepWords } from '@/ui/words'

/** One lane a person, station and enclosure: set-up dashed, hands on solid, waiting hatched. */
const props = defineProps<{ lanes: Schemas['LaneView'][]; now: number; hours: number }>()
const emit = defineEmits<{ look: [block: Block] }>()
const ROW = 13
const TITLES = { person: 'People', station: 'Stations', enclosure: 'Rooms and chambers' } as const
const groups = computed(() =>
  (['person', 'station', 'enclosure'] as const).map((kind) => ({
    kind,
    title: TITLES[kind],
    lanes: props.lanes
      .filter((lane) => lane.kind === kind)
      .map((lane) => ({
        name: lane.name,
        drawn: stacked(
          drawnOn(
            kind === 'person' ? withoutWaiting(lane.blocks) : lane.blocks,
            props.now,
            props.hours,
          ),
        ),
      }))
      .filter((lane) => kind === 'person' || lane.drawn.rows.length),
  })),
)
const marks = computed(() => marksOf(props.now, props.hours))
const number = (block: Block) => block.job_number ?? block.test
const said = (block: Block) =>
  `${stepWords(block.step)} of ${block.test}, ${clockTime(block.begins)} to ${clockTime(block.end)}: ${block.why}`
</script>

<template>
  <div class="strip">
    <div class="ruler mono small" aria-hidden="true">
      <span v-for="mark in marks" :key="mark.at" :style="{ left: `${mark.at}%` }">{{
        mark.words
      }}</span>
    </div>
    <section v-for="group in groups" :key="group.kind">
      <h3>{{ group.title }}</h3>
      <div v-for="lane in group.lanes" :key="lane.name" class="lane">
        <span class="name">{{ lane.name }}</span>
        <div class="track" :style="{ height: `${Math.max(30, lane.drawn.count * ROW)}px` }">
          <i v-for="mark in marks" :key="mark.at" :style="{ left: `${mark.at}%` }" />
          <button
            v-for="each in lane.drawn.rows"
            :key="`${each.block.id} ${each.block.step}`"
            class="block"
            :class="{ late: each.block.late }"
            :style="{
              left: `${each.begins}%`,
              top: `${(100 * each.row) / lane.drawn.count}%`,
              height: `${100 / lane.drawn.count}%`,
              width: `${each.setUp + each.hands + each.alone}%`,
            }"
            :title="said(each.block)"
            :aria-label="said(each.block)"
            @click="emit('look', each.block)"
          >
            <b v-if="each.setUp" class="set-up" :style="{ flexGrow: each.setUp }" />
            <b v-if="each.hands" class="hands" :style="{ flexGrow: each.hands }" />
            <b v-if="each.alone" class="alone" :style="{ flexGrow: each.alone }" />
            <span v-if="each.hands > 11 && lane.drawn.count < 2" class="mono on-hands">{{
              number(each.block)
            }}</span>
            <span v-else-if="each.alone > 11 && lane.drawn.count < 2" class="mono">{{
              number(each.block)
            }}</span>
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

.block span {
  position: absolute;
  right: 4px;
  bottom: 4px;
  padding: 0 4px;
  white-space: nowrap;
  background: var(--page);
  color: var(--ink);
  font-size: 12px;
  line-height: 18px;
}

.block .on-hands {
  background: none;
  color: var(--page);
}
</style>
