<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAct, useSheet } from '@/api/queries'
import { BAND_MM, usedMm } from '@/cutting/areas'
import AvoidedAreas from '@/cutting/AvoidedAreas.vue'
import ChosenSpecimen from '@/cutting/ChosenSpecimen.vue'
import CuttingList from '@/cutting/CuttingList.vue'
import { useCuttingStep } from '@/cutting/cuttingStep'
import { useLaying } from '@/cutting/laying'
import { useMarking } from '@/cutting/marking'
import MarkingTools from '@/cutting/MarkingTools.vue'
import { usePlacing } from '@/cutting/placing'
import SheetDrawing from '@/cutting/SheetDrawing.vue'
import SheetFoot from '@/cutting/SheetFoot.vue'
import SheetTools from '@/cutting/SheetTools.vue'
import { useSheetHistory } from '@/cutting/sheetHistory'
import SheetNext from '@/cutting/SheetNext.vue'
import SheetOutputs from '@/cutting/SheetOutputs.vue'
import FromRecord from '@/ui/FromRecord.vue'
import { useKeys } from '@/ui/keys'
import { figureFrom } from '@/ui/numbers'
import ActButton from '@/ui/ActButton.vue'

const props = defineProps<{ id: number }>()
const query = useSheet(props.id)
const { act, refused, busy } = useAct()
const history = useSheetHistory(props.id)

const sheet = computed(() => query.data.value ?? null)
const open = computed(
  () => sheet.value !== null && sheet.value.left_to_cut > 0 && !sheet.value.released,
)
const wholeRoll = ref(false)
const paper = ref(false)
const drawing = ref<Record<'finish' | 'forget' | 'zoom' | 'reset', () => void> | null>(null)
const used = computed(() => (sheet.value ? usedMm(sheet.value) : Infinity))
const breakable = computed(() => sheet.value !== null && used.value < sheet.value.length_mm * 0.92)

/** A change of the sheet that can be taken back. */
async function change(work: () => Promise<unknown>) {
  const before = sheet.value!
  const changed = await act(work)
  if (changed) history.remember(before)
  return changed
}
const { tool, reason, bandMm, mark, unmark } = useMarking(sheet, change)
const { rules, placing, placeAll, showRules } = usePlacing(sheet, change)
const { selected, chosen, ghost, broken, drag, drop, nudge, lock, turn } = useLaying(
  sheet,
  open,
  busy,
  refused,
  change,
)
const { next, nothingPlaced, locked } = useCuttingStep(sheet, broken, act, placeAll, useRouter())

function takeBack() {
  if (open.value && history.canTakeBack.value) void act(() => history.takeBack(sheet.value!))
}

function enter() {
  if (tool.value === 'polygon') drawing.value?.finish()
  else void next.value?.go()
}
function escape() {
  drawing.value?.forget()
  tool.value = null
  selected.value = null
}

useKeys(() => [
  { key: 'Enter', text: next.value?.text ?? '', act: enter },
  {
    key: 'm',
    text: t('cutting.mark-an-area-to-avoid'),
    act: () => (tool.value = open.value && !tool.value ? 'box' : null),
  },
  {
    key: 'p',
    text: t('cutting.place-again-around-locked-specimens'),
    act: () => open.value && void placeAll(),
  },
  { key: 'l', text: t('cutting.lock-the-chosen-specimen-or-unlock-it'), act: lock },
  { key: 'r', text: t('cutting.turn-the-chosen-specimen-if-allowed'), act: turn },
  { key: 'z', text: t('cutting.undo-the-last-change'), act: takeBack },
  { key: 'Escape', text: t('cutting.leave-the-tool'), act: escape },
  { key: 'ArrowLeft', text: t('cutting.move-the-chosen-specimen-1-mm'), act: () => nudge(-1, 0) },
  { key: 'ArrowRight', text: t('cutting.move-the-chosen-specimen-1-mm'), act: () => nudge(1, 0) },
  { key: 'ArrowUp', text: t('cutting.move-the-chosen-specimen-1-mm'), act: () => nudge(0, 1) },
  { key: 'ArrowDown', text: t('cutting.move-the-chosen-specimen-1-mm'), act: () => nudge(0, -1) },
])
</script>

<template>
  <FromRecord v-if="!query.data.value" :query="query" />
  <div v-else-if="sheet" class="table">
    <section class="left">
      <header>
        <div>
          <p class="mono small quiet">
            <router-link :to="`/jobs/${id}`">{{ sheet.job_number }}</router-link> ·
            {{ sheet.product }}
          </p>
          <h1>{{ t('cutting.sheet') }}</h1>
        </div>
        <SheetTools
          v-if="open"
          v-model:tool="tool"
          :locked="locked"
          :placed="!nothingPlaced"
          :undoable="history.canTakeBack.value"
          :busy="busy"
          @place="placeAll"
          @undo="takeBack"
        />
      </header>
      <MarkingTools
        v-if="tool"
        v-model:tool="tool"
        v-model:reason="reason"
        v-model:band-mm="bandMm"
      />
      <div class="drawing">
        <SheetDrawing
          ref="drawing"
          :sheet="sheet"
          :live="open"
          :tool="tool"
          :band-mm="figureFrom(bandMm) || BAND_MM"
          :selected="selected"
          :ghost="ghost"
          :broken="broken"
          :shown-mm="wholeRoll || !breakable ? undefined : used"
          @pick="selected = $event"
          @drag="drag"
          @drop="drop"
          @area="mark"
        />
      </div>
      <SheetFoot
        v-model:typed="rules"
        v-model:whole-roll="wholeRoll"
        :sheet="sheet"
        :open="open"
        :breakable="breakable"
        @rules="showRules"
      />
    </section>
    <aside>
      <SheetNext
        v-model:refused="refused"
        :sheet="sheet"
        :next="next"
        :broken="broken"
        :placing="placing"
        :busy="busy"
      />
      <ChosenSpecimen
        v-if="chosen"
        :specimen="chosen"
        :open="open"
        :busy="busy"
        @lock="lock"
        @turn="turn"
      />
      <AvoidedAreas
        v-if="sheet.avoided.length"
        :areas="sheet.avoided"
        :open="open"
        @unmark="unmark"
      />
      <h3 class="list-head">
        <span>{{ paper ? t('cutting.print') : t('cutting.specimens') }}</span>
        <ActButton v-if="!nothingPlaced" kind="link" @click="paper = !paper">
          {{ paper ? t('cutting.back-to-the-list') : t('cutting.print-export-labels') }}
        </ActButton>
      </h3>
      <SheetOutputs v-if="paper" :id="id" />
      <CuttingList v-else :sheet="sheet" :selected="selected" @pick="selected = $event" />
      <p class="quiet small foot">{{ t('cutting.shears-and-knives-cut-away-from-the') }}</p>
    </aside>
  </div>
</template>

<style scoped>
.table {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 372px;
  gap: 30px;
  height: 100%;
}

.left {
  display: flex;
  flex-direction: column;
  min-height: 0;
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: end;
  justify-content: space-between;
}

.drawing {
  flex: 1;
  min-height: 320px;
  margin-top: 10px;
}

aside {
  overflow-y: auto;
  display: flex;
  flex-direction: column;
  gap: 11px;
  min-height: 0;
}

.list-head {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
}

.foot {
  margin-top: auto;
}

@media (max-width: 1100px) {
  .table {
    grid-template-columns: minmax(0, 1fr) 320px;
    gap: 20px;
  }
}

@media (max-width: 860px) {
  .table {
    grid-template-columns: 1fr;
    height: auto;
  }

  .drawing {
    height: 60vh;
  }
}
</style>
