<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { placeOf } from '@/app/router'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import { useNow } from '@/app/clock'
import { useSession } from '@/app/session'
import PinLine from '@/today/PinLine.vue'
import LaneStrip from '@/today/LaneStrip.vue'
import MinutesTable from '@/today/MinutesTable.vue'
import OrderOfWork from '@/today/OrderOfWork.vue'
import { REACHES, type Block } from '@/today/today'
import WhatIf from '@/today/WhatIf.vue'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import { useKeys } from '@/ui/keys'
import RefusalNote from '@/ui/RefusalNote.vue'
import { shortMoment } from '@/ui/dates'
import { stepWords, stretch } from '@/ui/words'

/** The day: what is next and by when, what runs where, what is late and why. */
const { me } = useSession()
const { act, refused, busy } = useAct()
const now = useNow()
const cache = useQueryClient()
const today = useQuery({
  queryKey: ['today'],
  queryFn: () => ask(client.GET('/api/schedule')),
  refetchInterval: 60_000,
})
const again = () =>
  act(async () => cache.setQueryData(['today'], await ask(client.POST('/api/schedule'))))
watch(
  () => today.data.value?.stale,
  (stale) => stale && !busy.value && void again(),
  { immediate: true },
)

async function repinned() {
  looked.value = null
  await again()
}
const hours = ref<number>(REACHES[0].hours)
const mine = ref(false)
const looked = ref<Block | null>(null)
const from = computed(() => Math.floor(now.value / 60_000) * 60_000)
const next = computed(() =>
  (today.data.value?.next ?? []).filter((block) => !mine.value || block.person_id === me.value?.id),
)
const placeOfStep = (block: Block) => placeOf(block.at, block.job_id!)
const when = (block: Block) => {
  const left = Date.parse(block.begins) - now.value
  return left <= 0 ? 'now' : left < 3_600_000 ? `in ${stretch(left)}` : shortMoment(block.begins)
}
useKeys(() => [
  { key: 'p', says: 'plan again', act: () => void again() },
  { key: 'e', says: 'my work or all work', act: () => (mine.value = !mine.value) },
])
</script>

<template>
  <FromRecord v-if="!today.data.value" :query="today" />
  <template v-else>
    <header class="head">
      <h1>Today</h1>
      <div class="acts">
        <ActButton
          v-for="reach in REACHES"
          :key="reach.hours"
          kind="link"
          :class="{ on: hours === reach.hours }"
          @click="hours = reach.hours"
        >
          {{ reach.words }}
        </ActButton>
        <a href="/api/schedule/day.pdf" target="_blank">print</a>
        <a href="/api/schedule/calendar.ics">calendar</a>
        <ActButton :disabled="busy" @click="again">
          {{ busy ? 'Planning …' : 'Plan again' }} <kbd>p</kbd>
        </ActButton>
      </div>
    </header>
    <RefusalNote v-model="refused" />
    <div class="halves">
      <div>
        <LaneStrip
          :lanes="today.data.value.lanes"
          :now="from"
          :hours="hours"
          @look="looked = $event"
        />
        <p v-if="looked" class="looked">
          <b>{{ stepWords(looked.step) }}</b> of {{ looked.test
          }}<template v-if="looked.person">, {{ looked.person }}</template
          ><template v-if="looked.place">, {{ looked.place }}</template
          >: {{ looked.why }}.
          <router-link v-if="looked.job_id" :to="placeOfStep(looked)">open</router-link>
          <PinLine
            v-if="looked.test_id"
            :key="`${looked.id} ${looked.step}`"
            :block="looked"
            @pinned="repinned"
          />
        </p>
        <p v-if="!today.data.value.lanes.length && !busy" class="quiet">
          Nothing is planned: there is no open test.
        </p>
        <p class="small quiet legend">
          <i class="set-up" /> set-up <i class="hands" /> hands on <i class="alone" /> unattended
          <i class="late" /> late test. The red line is now.
        </p>
        <OrderOfWork />
        <WhatIf :lanes="today.data.value.lanes" />
        <MinutesTable />
      </div>
      <aside>
        <template v-if="today.data.value.tell.length">
          <h2>To notify</h2>
          <p v-for="row in today.data.value.tell" :key="row" class="small late">{{ row }}.</p>
        </template>
        <h2>
          Next
          <ActButton kind="link" class="small" @click="mine = !mine">
            {{ mine ? 'everybody’s' : 'my work' }} <kbd>e</kbd>
          </ActButton>
        </h2>
        <ol>
          <li v-for="block in next" :key="`${block.id} ${block.step}`">
            <span class="mono small">{{ when(block) }}</span>
            <router-link :to="placeOfStep(block)"
              ><b>{{ stepWords(block.step) }}</b> {{ block.test }}</router-link
            >
            <span class="small quiet"
              >{{ block.person }}<template v-if="block.place">, {{ block.place }}</template></span
            >
          </li>
        </ol>
        <p v-if="!next.length" class="quiet small">
          Nothing is planned for {{ mine ? 'you' : 'anyone' }}.
        </p>
        <template v-if="today.data.value.before_home.length">
          <h2>Before going home</h2>
          <p
            v-for="block in today.data.value.before_home"
            :key="`${block.id} ${block.step}`"
            class="small"
          >
            <router-link :to="placeOfStep(block)"
              >{{ stepWords(block.step) }} {{ block.test }}</router-link
            >, until {{ shortMoment(block.end) }}
          </p>
        </template>
        <template v-if="today.data.value.late.length">
          <h2>Late</h2>
          <p v-for="row in today.data.value.late" :key="row.id" class="small late">
            <router-link :to="`/jobs/${row.job_id}`">{{ row.test }}</router-link>
            by <b class="mono">{{ stretch((row.minutes ?? 0) * 60_000) }}</b>: {{ row.why }}.
          </p>
        </template>
        <template v-if="today.data.value.at_risk.length">
          <h2>At risk</h2>
          <p v-for="row in today.data.value.at_risk" :key="row.id" class="small">
            <router-link :to="`/jobs/${row.job_id}`">{{ row.test }}</router-link>:
            {{ stretch((row.minutes ?? 0) * 60_000) }} to spare.
          </p>
        </template>
        <template v-if="today.data.value.unplanned.length">
          <h2>Unscheduled</h2>
          <p v-for="row in today.data.value.unplanned" :key="row.id" class="small">
            <router-link :to="`/jobs/${row.job_id}`">{{ row.test }}</router-link>: {{ row.why }}.
          </p>
        </template>
        <template v-if="today.data.value.moved.length">
          <h2>Changes since the last plan</h2>
          <p v-for="row in today.data.value.moved" :key="row" class="small quiet">{{ row }}</p>
        </template>
      </aside>
    </div>
  </template>
</template>

<style scoped>
.head,
.acts {
  display: flex;
  gap: 18px;
  align-items: center;
  justify-content: space-between;
}

.acts {
  font-size: 15px;
}

.acts .on {
  color: var(--ink);
  font-weight: 700;
  text-decoration: none;
}

.halves {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 34px;
  margin-top: 10px;
}

ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  min-height: var(--touch);
  padding: 6px 0;
  border-top: 1px solid var(--hair);
}

h2 {
  margin: 14px 0 6px;
}

aside h2:first-child {
  margin-top: 0;
}

.looked {
  margin-top: 8px;
  padding: 8px 12px;
  background: var(--sunk);
}

.late {
  color: var(--brick);
}

.legend {
  margin-top: 10px;
}

.legend i {
  display: inline-block;
  width: 18px;
  height: 11px;
  margin-left: 10px;
  background: var(--blue);
}

.legend i.set-up {
  border: 1.5px dashed var(--ochre);
  background: none;
}

.legend i.late {
  background: var(--brick);
}

.legend i.alone {
  border: 1px solid var(--ink-3);
  background: repeating-linear-gradient(-45deg, transparent 0 4px, var(--ink-3) 4px 5px);
}

@media (max-width: 1100px) {
  .halves {
    grid-template-columns: minmax(0, 1fr) 240px;
    gap: 20px;
  }
}

@media (max-width: 860px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
}

@media print {
  .acts {
    display: none;
  }
}
</style>
