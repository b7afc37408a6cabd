<script setup lang="ts">
import { computed, onUnmounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { ask, client, sentence, type BrokenRule, type PlacedSpecimen } from '@/api/client'
import CuttingList from '@/components/CuttingList.vue'
import FromRecord from '@/components/FromRecord.vue'
import RefusalNote from '@/components/RefusalNote.vue'
import SheetDrawing from '@/components/SheetDrawing.vue'
import SheetOutputs from '@/components/SheetOutputs.vue'
import { BAND_MM, usedMm, type AreaTool, type Spot } from '@/composables/areas'
import { useKeys } from '@/composables/keys'
import { useAct, useSheet } from '@/composables/queries'
import { useSheetHistory } from '@/composables/sheetHistory'
import { moment } from '@/composables/words'

const props = defineProps<{ id: number }>()
const REASONS = ['crease', 'stain', 'hole', 'fold', 'splice', 'wrinkle']
const TOOLS: [AreaTool, string, string][] = [
  ['box', 'Box', 'Drag a box over it.'],
  ['band', 'Band along a crease', 'Drag along the crease, from end to end.'],
  ['polygon', 'Any outline', 'Click round it corner by corner; Enter or a double click closes it.'],
]
const CHECK_EVERY_MS = 90
const PLACING_S = 4
const router = useRouter()
const query = useSheet(props.id)
const { act, refused, busy } = useAct()
const history = useSheetHistory(props.id)

const sheet = computed(() => query.data.value ?? null)
const open = computed(() => sheet.value !== null && !sheet.value.cut_at && !sheet.value.released)
const selected = ref<number | null>(null)
const ghost = ref<{ id: number; x: number; y: number } | null>(null)
const liveBroken = ref<BrokenRule[] | null>(null)
const tool = ref<AreaTool | null>(null)
const reason = ref('crease')
const bandMm = ref(String(BAND_MM))
const wholeRoll = ref(false)
const paper = ref(false)
const rules = ref<{ end_margin_mm: string; kerf_mm: string; clearance_mm: string } | null>(null)
const drawing = ref<InstanceType<typeof SheetDrawing> | null>(null)
const path = { job_id: props.id }

const broken = computed(() => liveBroken.value ?? sheet.value?.broken ?? [])
const unplaced = computed(() => sheet.value?.specimens.filter((one) => one.x_mm === null) ?? [])
const nothingPlaced = computed(() => unplaced.value.length === sheet.value?.specimens.length)
const locked = computed(() => sheet.value?.specimens.filter((one) => one.locked).length ?? 0)
const chosen = computed(
  () => sheet.value?.specimens.find((one) => one.id === selected.value) ?? null,
)
const used = computed(() => (sheet.value ? usedMm(sheet.value) : Infinity))
const breakable = computed(() => sheet.value !== null && used.value < sheet.value.length_mm * 0.92)
const replacements = computed(() =>
  Object.entries(sheet.value?.replacements ?? {}).flatMap(([test, missing]) =>
    Object.keys(missing).map((direction) => ({ test: Number(test), direction })),
  ),
)

const next = computed(() => {
  if (!sheet.value) return null
  if (replacements.value[0]) {
    const { test, direction } = replacements.value[0]
    return {
      words: `Cut a replacement, ${direction}`,
      why: `A void in the ${direction} has no spare left. One more is placed in what is left of the sheet.`,
      go: () =>
        act(() =>
          ask(
            client.POST('/api/tests/{test_id}/replacements/{direction}', {
              params: { path: { test_id: test, direction } },
            }),
          ),
        ),
    }
  }
  if (sheet.value.cut_at)
    return {
      words: 'Hang the specimens',
      why: `Cut ${moment(sheet.value.cut_at)}. What is cut stays where it lay.`,
      go: () => router.push('/conditioning'),
    }
  if (nothingPlaced.value)
    return {
      words: 'Place the specimens',
      why: 'Mark creases, stains and holes first; everything is then placed clear of them.',
      go: placeAll,
    }
  if (unplaced.value.length)
    return {
      words: 'Place them again',
      why: sheet.value.shortage ? '' : `${unplaced.value.length} lie nowhere.`,
      go: placeAll,
    }
  if (broken.value.length)
    return {
      words: locked.value ? 'Place the rest again' : 'Place them again',
      why: 'Or move the specimens by hand until no rule is broken.',
      go: placeAll,
    }
  return {
    words: 'It is cut like this',
    why: 'Every rule is kept. Print the sheet, cut, then say so.',
    go: () =>
      act(() =>
        ask(client.POST('/api/jobs/{job_id}/sheet/cut', { params: { path }, body: seen() })),
      ),
  }
})

function seen() {
  return { revision: sheet.value!.revision }
}

/** A change of the sheet that can be taken back. */
async function change(work: () => Promise<unknown>) {
  const before = sheet.value!
  const done = await act(work)
  if (done) history.remember(before)
  return done
}

const placing = ref(0)
let ticking = 0
onUnmounted(() => window.clearInterval(ticking))
async function placeAll() {
  placing.value = 0.1
  ticking = window.setInterval(() => (placing.value += 0.1), 100)
  const asked = Object.fromEntries(
    Object.entries(rules.value ?? {})
      .filter(([, typed]) => typed.trim())
      .map(([name, typed]) => [name, Number(typed.replace(',', '.'))]),
  )
  await change(() =>
    ask(
      client.POST('/api/jobs/{job_id}/sheet/place', {
        params: { path },
        body: { seconds: PLACING_S, ...asked, ...seen() },
      }),
    ),
  )
  window.clearInterval(ticking)
  placing.value = 0
}

let asking = false
let wanted: { id: number; x: number; y: number } | null = null
async function drag(id: number, x: number, y: number) {
  ghost.value = { id, x, y }
  wanted = ghost.value
  if (asking) return
  asking = true
  while (wanted) {
    const { id: specimen_id, x: x_mm, y: y_mm } = wanted
    wanted = null
    try {
      const found = await ask(
        client.POST('/api/jobs/{job_id}/sheet/check', {
          params: { path },
          body: { specimen_id, x_mm, y_mm, locked: false },
        }),
      )
      if (ghost.value) liveBroken.value = found
    } catch (error) {
      refused.value = sentence(error)
    }
    await new Promise((done) => window.setTimeout(done, CHECK_EVERY_MS))
  }
  asking = false
}

type Changed = Partial<{
  x_mm: number | null
  y_mm: number | null
  long_side: string
  locked: boolean
}>
async function lay(one: PlacedSpecimen, changed: Changed) {
  const laid = {
    specimen_id: one.id,
    x_mm: one.x_mm,
    y_mm: one.y_mm,
    long_side: one.long_side,
    locked: one.locked,
    ...changed,
  } as const
  await change(() =>
    ask(
      client.PUT('/api/jobs/{job_id}/sheet/layout', {
        params: { path },
        body: { laid: [laid as never], ...seen() },
      }),
    ),
  )
}

async function drop(id: number, x: number, y: number) {
  wanted = null
  ghost.value = { id, x, y }
  const one = sheet.value?.specimens.find((each) => each.id === id)
  if (one) await lay(one, { x_mm: x, y_mm: y })
  ghost.value = null
  liveBroken.value = null
}

function nudge(dx: number, dy: number) {
  const one = chosen.value
  if (!open.value || !one || one.locked || one.x_mm === null || one.y_mm === null || busy.value)
    return
  void drop(one.id, one.x_mm + dx, one.y_mm + dy)
}

function lock() {
  const one = chosen.value
  if (open.value && one && one.x_mm !== null) void lay(one, { locked: !one.locked })
}
function turn() {
  const one = chosen.value
  if (!open.value || !one?.turnable || one.locked) return
  void lay(one, { long_side: one.long_side === 'warp' ? 'weft' : 'warp' })
}
function takeBack() {
  if (open.value && history.canTakeBack.value) void act(() => history.takeBack(sheet.value!))
}

type Area = { reason: string; corners: [number, number][] }
function areas(): Area[] {
  return (sheet.value?.avoided ?? []).map((area) => ({
    reason: area.reason,
    corners: area.corners.map(({ x, y }) => [x, y]),
  }))
}
function storeAreas(list: Area[]) {
  return change(() =>
    ask(
      client.PUT('/api/jobs/{job_id}/sheet/areas', {
        params: { path },
        body: { areas: list, ...seen() },
      }),
    ),
  )
}
async function mark(corners: Spot[]) {
  const named = reason.value.trim() || 'marked'
  const drawnWith = tool.value
  tool.value = null
  const kept = await storeAreas([
    ...areas(),
    { reason: named, corners: corners.map(({ x, y }) => [x, y]) },
  ])
  if (!kept) tool.value = drawnWith
}
function unmark(place: number) {
  return storeAreas(areas().filter((_, other) => other !== place))
}

function showRules() {
  if (rules.value || !sheet.value) return (rules.value = null)
  const { end_margin_mm, kerf_mm, clearance_mm } = sheet.value
  return (rules.value = {
    end_margin_mm: String(end_margin_mm),
    kerf_mm: String(kerf_mm),
    clearance_mm: String(clearance_mm),
  })
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
  { key: 'Enter', says: next.value?.words ?? '', act: enter },
  {
    key: 'm',
    says: 'mark an area to avoid',
    act: () => (tool.value = open.value && !tool.value ? 'box' : null),
  },
  { key: 'p', says: 'place again around what is locked', act: () => open.value && void placeAll() },
  { key: 'l', says: 'lock the chosen specimen, or unlock it', act: lock },
  { key: 'r', says: 'turn the chosen specimen, where it may be', act: turn },
  { key: 'z', says: 'take the last change back', act: takeBack },
  { key: 'Escape', says: 'leave the tool', act: escape },
  { key: 'ArrowLeft', says: 'move the chosen specimen 1 mm', act: () => nudge(-1, 0) },
  { key: 'ArrowRight', says: 'move the chosen specimen 1 mm', act: () => nudge(1, 0) },
  { key: 'ArrowUp', says: 'move the chosen specimen 1 mm', act: () => nudge(0, 1) },
  { key: 'ArrowDown', says: 'move the chosen specimen 1 mm', act: () => nudge(0, -1) },
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
          <h1>Sheet</h1>
        </div>
        <div class="tools">
          <template v-if="open">
            <button
              class="act"
              :aria-pressed="tool !== null"
              :class="{ on: tool }"
              @click="tool = tool ? null : 'box'"
            >
              Mark an area <kbd>M</kbd>
            </button>
            <button
              v-if="!nothingPlaced"
              class="act"
              :disabled="busy"
              :title="locked ? `${locked} locked stay where they are` : ''"
              @click="placeAll"
            >
              Place again <kbd>P</kbd>
            </button>
            <button class="act" :disabled="busy || !history.canTakeBack.value" @click="takeBack">
              Undo <kbd>Z</kbd>
            </button>
          </template>
        </div>
      </header>
      <div v-if="tool" class="marking">
        <div class="chips">
          <button
            v-for="[one, words] in TOOLS"
            :key="one"
            class="plain chip"
            :class="{ on: tool === one }"
            @click="tool = one"
          >
            {{ words }}
          </button>
          <label v-if="tool === 'band'" class="small">
            <input v-model="bandMm" class="mono" size="3" inputmode="decimal" /> mm wide
          </label>
          <span class="quiet small">{{ TOOLS.find(([one]) => one === tool)![2] }}</span>
        </div>
        <div class="chips">
          <button
            v-for="one in REASONS"
            :key="one"
            class="plain chip"
            :class="{ on: reason === one }"
            @click="reason = one"
          >
            {{ one }}
          </button>
          <input v-model="reason" maxlength="60" aria-label="Reason" class="reason" />
        </div>
      </div>
      <div class="drawing">
        <SheetDrawing
          ref="drawing"
          :sheet="sheet"
          :live="open"
          :tool="tool"
          :band-mm="Number(bandMm.replace(',', '.')) || BAND_MM"
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
      <p class="quiet small under">
        <span v-if="sheet.length_needed_mm">
          <span class="mono">{{ Math.ceil(sheet.length_needed_mm) }} mm</span> of
          <span class="mono">{{ sheet.length_mm.toFixed(0) }} mm</span> are needed, no placing needs
          less than <span class="mono">{{ Math.ceil(sheet.length_bound_mm ?? 0) }} mm</span>.
        </span>
        <button v-if="breakable" class="plain link" @click="wholeRoll = !wholeRoll">
          {{ wholeRoll ? 'Show what is used' : 'Show the whole length' }}
        </button>
        <button v-if="open" class="plain link" @click="showRules">
          Cut {{ sheet.kerf_mm }} mm, ends {{ sheet.end_margin_mm }} mm, clear of areas
          {{ sheet.clearance_mm }} mm
        </button>
      </p>
      <div v-if="rules && open" class="chips rules-typed">
        <label>ends <input v-model="rules.end_margin_mm" class="mono" size="4" /> mm</label>
        <label>cut <input v-model="rules.kerf_mm" class="mono" size="4" /> mm</label>
        <label
          >clear of areas <input v-model="rules.clearance_mm" class="mono" size="4" /> mm</label
        >
        <span class="quiet small">taken when the specimens are placed again</span>
      </div>
    </section>
    <aside>
      <button
        v-if="next"
        class="act main wide"
        :disabled="busy || sheet.released"
        @click="next.go()"
      >
        {{ placing ? 'Placing …' : busy ? 'At it …' : next.words }} <kbd>Enter</kbd>
      </button>
      <div v-if="placing" class="progress" role="progressbar">
        <span :style="{ width: `${Math.min((100 * placing) / PLACING_S, 100)}%` }" />
        <p class="quiet small">
          {{ placing > PLACING_S ? 'Checking every rule …' : 'Looking for the least length …' }}
        </p>
      </div>
      <p v-else-if="next?.why" class="why">{{ next.why }}</p>
      <RefusalNote v-model="refused" />
      <div v-if="broken.length" class="rules" role="alert">
        <h3>
          {{ broken.length === 1 ? 'A rule is broken' : `${broken.length} rules are broken` }}
        </h3>
        <p v-for="(rule, place) in broken.slice(0, 5)" :key="place">{{ rule.sentence }}.</p>
      </div>
      <p v-if="sheet.shortage && !sheet.cut_at" class="rules" role="alert">{{ sheet.shortage }}.</p>

      <div v-if="chosen" class="chosen">
        <strong class="mono">{{ chosen.name }}</strong>
        <span v-if="chosen.disc">{{ chosen.test }}</span>
        <span v-else
          >long side along the <b>{{ chosen.lies }}</b></span
        >
        <span
          ><b>{{ chosen.works_on }}</b></span
        >
        <span v-if="chosen.hot_knife" class="caution">cut with a hot knife</span>
        <div v-if="open && chosen.x_mm !== null" class="hands">
          <button class="act" :disabled="busy" @click="lock">
            {{ chosen.locked ? 'Unlock' : 'Lock' }} <kbd>L</kbd>
          </button>
          <button
            v-if="chosen.turnable"
            class="act"
            :disabled="busy || chosen.locked"
            @click="turn"
          >
            Turn <kbd>R</kbd>
          </button>
          <span v-if="!chosen.locked" class="quiet small">drag it, or use the arrows</span>
        </div>
      </div>

      <ul v-if="sheet.avoided.length" class="areas">
        <li v-for="(one, place) in sheet.avoided" :key="place">
          <span>{{ one.reason }}</span>
          <button v-if="open" class="plain quiet small" @click="unmark(place)">take away</button>
        </li>
      </ul>

      <h3 class="list-head">
        <span>{{ paper ? 'On paper' : 'What is cut' }}</span>
        <button v-if="!nothingPlaced" class="plain link" @click="paper = !paper">
          {{ paper ? 'back to the list' : 'Print, export, labels' }}
        </button>
      </h3>
      <SheetOutputs v-if="paper" :id="id" />
      <CuttingList v-else :sheet="sheet" :selected="selected" @pick="selected = $event" />
      <p class="quiet small foot">Shears and knives: cut away from the hand, on a mat.</p>
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

.tools {
  display: flex;
  gap: 8px;
  white-space: nowrap;
}

.drawing {
  flex: 1;
  min-height: 320px;
  margin-top: 10px;
}

.on.act {
  border-color: var(--brick);
  color: var(--brick);
}

.marking {
  display: grid;
  gap: 6px;
  margin-top: 8px;
}

.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}

.chip {
  min-height: 36px;
  padding: 0 12px;
  border: 1px solid var(--ink-3);
  border-radius: 18px;
}

.chip.on {
  border-color: var(--brick);
  color: var(--brick);
  font-weight: 700;
}

.chips input {
  min-height: 36px;
  padding: 0 8px;
  border: 1px solid var(--ink-3);
  border-radius: 6px;
  background: var(--page);
  color: var(--ink);
}

.reason {
  width: 130px;
}

.under {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  align-items: center;
}

.rules-typed {
  gap: 16px;
  margin-top: 4px;
  font-size: 14px;
}

.link {
  min-height: 32px;
  color: var(--blue);
  font-size: 14px;
  text-decoration: underline;
  text-underline-offset: 3px;
}

aside {
  overflow-y: auto;
  display: flex;
  flex-direction: column;
  gap: 11px;
  min-height: 0;
}

.wide {
  flex: none;
  width: 100%;
  justify-content: flex-start;
}

.why {
  color: var(--ink-2);
}

.progress span {
  display: block;
  height: 7px;
  background: repeating-linear-gradient(90deg, var(--tape) 0 9px, transparent 9px 10px);
}

.rules {
  padding: 9px 14px;
  border-left: 5px solid var(--brick);
  background: var(--sunk);
}

.chosen {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 0 14px;
  padding: 10px 14px;
  border: 1.5px dashed var(--blue);
}

.chosen strong {
  grid-row: span 2;
  font-size: 30px;
  line-height: 1.1;
}

.hands {
  display: flex;
  grid-column: 1 / -1;
  gap: 8px;
  align-items: center;
  margin-top: 8px;
}

.caution {
  grid-column: 1 / -1;
  color: var(--brick);
  font-weight: 600;
}

.areas {
  margin: 0;
  padding: 0;
  list-style: none;
}

.areas li {
  display: flex;
  justify-content: space-between;
  padding: 3px 0 3px 12px;
  border-left: 5px solid var(--brick);
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
  .tools kbd {
    display: none;
  }

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
