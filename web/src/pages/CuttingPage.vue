<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { ask, client, sentence, type BrokenRule, type PlacedSpecimen } from '@/api/client'
import FromRecord from '@/components/FromRecord.vue'
import RefusalNote from '@/components/RefusalNote.vue'
import SheetDrawing from '@/components/SheetDrawing.vue'
import { useKeys } from '@/composables/keys'
import { useAct, useSheet } from '@/composables/queries'
import { moment } from '@/composables/words'

const props = defineProps<{ id: number }>()
const REASONS = ['crease', 'stain', 'hole', 'fold', 'splice', 'wrinkle']
const CHECK_EVERY_MS = 90
const router = useRouter()
const query = useSheet(props.id)
const { act, refused, busy } = useAct()

const sheet = computed(() => query.data.value ?? null)
const open = computed(() => sheet.value !== null && !sheet.value.cut_at && !sheet.value.released)
const selected = ref<number | null>(null)
const ghost = ref<{ id: number; x: number; y: number } | null>(null)
const liveBroken = ref<BrokenRule[] | null>(null)
const marking = ref(false)
const reason = ref('crease')
const path = { job_id: props.id }

const broken = computed(() => liveBroken.value ?? sheet.value?.broken ?? [])
const unplaced = computed(() => sheet.value?.specimens.filter((one) => one.x_mm === null) ?? [])
const nothingPlaced = computed(() => unplaced.value.length === sheet.value?.specimens.length)
const chosen = computed(
  () => sheet.value?.specimens.find((one) => one.id === selected.value) ?? null,
)
const order = computed(() =>
  [...(sheet.value?.specimens ?? [])].sort(
    (a, b) => (a.y_mm ?? 1e9) - (b.y_mm ?? 1e9) || (a.x_mm ?? 0) - (b.x_mm ?? 0),
  ),
)
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
      why: 'Mark creases and stains first: drag a box over each. Then everything is placed clear of them.',
      go: placeAll,
    }
  if (unplaced.value.length)
    return {
      words: 'Place them again',
      why: sheet.value.shortage ?? 'Some lie nowhere.',
      go: placeAll,
    }
  if (broken.value.length)
    return {
      words: 'Place them again',
      why: 'A rule is broken; or move the specimens by hand.',
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

function placeAll() {
  return act(() =>
    ask(client.POST('/api/jobs/{job_id}/sheet/place', { params: { path }, body: seen() })),
  )
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
          body: { specimen_id, x_mm, y_mm },
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

async function drop(id: number, x: number, y: number) {
  wanted = null
  ghost.value = { id, x, y }
  await act(() =>
    ask(
      client.POST('/api/jobs/{job_id}/sheet/move', {
        params: { path },
        body: { specimen_id: id, x_mm: x, y_mm: y, ...seen() },
      }),
    ),
  )
  ghost.value = null
  liveBroken.value = null
}

function nudge(dx: number, dy: number) {
  const one = chosen.value
  if (!open.value || !one || one.x_mm === null || one.y_mm === null || busy.value) return
  void drop(one.id, one.x_mm + dx, one.y_mm + dy)
}

type Area = { reason: string; left_mm: number; near_mm: number; right_mm: number; far_mm: number }
function areas(): Area[] {
  return (sheet.value?.avoided ?? []).map((area) => {
    const xs = area.corners.map(({ x }) => x)
    const ys = area.corners.map(({ y }) => y)
    return {
      reason: area.reason,
      left_mm: Math.min(...xs),
      near_mm: Math.min(...ys),
      right_mm: Math.max(...xs),
      far_mm: Math.max(...ys),
    }
  })
}
function storeAreas(list: Area[]) {
  return act(() =>
    ask(
      client.PUT('/api/jobs/{job_id}/sheet/areas', {
        params: { path },
        body: { areas: list, ...seen() },
      }),
    ),
  )
}
async function mark(left: number, near: number, right: number, far: number) {
  marking.value = false
  await storeAreas([
    ...areas(),
    { reason: reason.value, left_mm: left, near_mm: near, right_mm: right, far_mm: far },
  ])
}
function unmark(place: number) {
  return storeAreas(areas().filter((_, other) => other !== place))
}

function edges(one: PlacedSpecimen): string {
  if (one.x_mm === null || one.y_mm === null) return '–'
  const across = (one.x_mm - one.across_mm / 2).toFixed(0).padStart(5)
  const along = (one.y_mm - one.along_mm / 2).toFixed(0).padStart(5)
  return `${across}${along}`
}

useKeys(() => [
  { key: 'Enter', says: next.value?.words ?? '', act: () => void next.value?.go() },
  {
    key: 'm',
    says: 'mark an area to avoid',
    act: () => (marking.value = open.value && !marking.value),
  },
  { key: 'ArrowLeft', says: 'move the chosen specimen 5 mm', act: () => nudge(-5, 0) },
  { key: 'ArrowRight', says: 'move the chosen specimen 5 mm', act: () => nudge(5, 0) },
  { key: 'ArrowUp', says: 'move the chosen specimen 5 mm', act: () => nudge(0, 5) },
  { key: 'ArrowDown', says: 'move the chosen specimen 5 mm', act: () => nudge(0, -5) },
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
        <div v-if="open" class="tools">
          <button
            class="act"
            :aria-pressed="marking"
            :class="{ on: marking }"
            @click="marking = !marking"
          >
            Mark an area <kbd>M</kbd>
          </button>
        </div>
      </header>
      <div v-if="marking" class="marking">
        <span>Drag a box over the</span>
        <button
          v-for="one in REASONS"
          :key="one"
          class="plain chip"
          :class="{ on: reason === one }"
          @click="reason = one"
        >
          {{ one }}
        </button>
      </div>
      <div class="drawing">
        <SheetDrawing
          :sheet="sheet"
          :live="open"
          :marking="marking"
          :selected="selected"
          :ghost="ghost"
          :broken="broken"
          @pick="selected = $event"
          @drag="drag"
          @drop="drop"
          @area="mark"
        />
      </div>
    </section>
    <aside>
      <button
        v-if="next"
        class="act main wide"
        :disabled="busy || sheet.released"
        @click="next.go()"
      >
        {{ busy ? 'At it …' : next.words }} <kbd>Enter</kbd>
      </button>
      <p v-if="next" class="why">{{ next.why }}</p>
      <RefusalNote v-model="refused" />
      <div v-if="broken.length" class="rules" role="alert">
        <h3>
          {{ broken.length === 1 ? 'A rule is broken' : `${broken.length} rules are broken` }}
        </h3>
        <p v-for="rule in broken.slice(0, 5)" :key="rule.sentence">{{ rule.sentence }}.</p>
      </div>
      <p v-if="sheet.shortage && !sheet.cut_at" class="rules" role="alert">{{ sheet.shortage }}.</p>

      <div v-if="chosen" class="chosen">
        <strong class="mono">{{ chosen.label }}</strong>
        <span
          >long side along the <b>{{ chosen.long_side }}</b></span
        >
        <span
          ><b>{{ chosen.works_on }}</b></span
        >
        <span v-if="open" class="quiet small">drag it, or use the arrow keys</span>
      </div>

      <ul v-if="sheet.avoided.length" class="areas">
        <li v-for="(area, place) in sheet.avoided" :key="place">
          <span>{{ area.reason }}</span>
          <button v-if="open" class="plain quiet small" @click="unmark(place)">take away</button>
        </li>
      </ul>

      <h3 class="list-head">
        <span>Cutting list</span>
        <a :href="`/api/jobs/${id}/sheet.pdf`" target="_blank" class="small"
          >print sheet and labels</a
        >
      </h3>
      <p class="mono quiet small cols">
        <span>label, long side</span><span>selvedge end, mm</span>
      </p>
      <ul class="list">
        <li v-for="one in order" :key="one.id">
          <button class="plain" :class="{ on: one.id === selected }" @click="selected = one.id">
            <b class="mono">{{ one.label }}</b>
            <span>{{ one.long_side }}, {{ one.works_on }}{{ one.spare ? ', spare' : '' }}</span>
            <span class="mono at">{{ edges(one) }}</span>
          </button>
        </li>
      </ul>
      <p class="quiet small">Shears and knives: cut away from the hand, on a mat.</p>
    </aside>
  </div>
</template>

<style scoped>
.table {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 348px;
  gap: 34px;
  height: 100%;
}

.left {
  display: flex;
  flex-direction: column;
  min-height: 0;
}

header {
  display: flex;
  align-items: end;
  justify-content: space-between;
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
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  margin-top: 8px;
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

aside {
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-height: 0;
}

.wide {
  width: 100%;
  justify-content: flex-start;
}

.why {
  color: var(--ink-2);
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
  grid-row: span 3;
  font-size: 30px;
  line-height: 1.1;
}

.areas,
.list {
  margin: 0;
  padding: 0;
  list-style: none;
}

.areas li {
  display: flex;
  justify-content: space-between;
  padding: 4px 0 4px 12px;
  border-left: 5px solid var(--brick);
}

.list-head {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  margin-top: 6px;
}

.cols {
  display: flex;
  justify-content: space-between;
  margin: -8px 0;
  white-space: pre;
}

.list {
  overflow: auto;
  min-height: 120px;
  border-top: 1.5px solid var(--ink);
}

.list button {
  display: flex;
  gap: 10px;
  width: 100%;
  min-height: 32px;
  align-items: center;
  border-bottom: 1px solid var(--hair);
  font-size: 15px;
  line-height: 1.25;
  text-align: left;
}

.list b {
  width: 34px;
}

.list .at {
  margin-left: auto;
  white-space: pre;
}

.list .on {
  background: var(--blue-wash);
}

@media (max-width: 1100px) {
  .list button {
    font-size: 14px;
  }

  .table {
    grid-template-columns: minmax(0, 1fr) 310px;
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
