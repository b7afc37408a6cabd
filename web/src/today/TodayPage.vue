<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { placeOf } from '@/app/router'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import { useNow } from '@/app/clock'
import SetUpChecklist from '@/today/SetUpChecklist.vue'
import TodayAside from '@/today/TodayAside.vue'
import PinLine from '@/today/PinLine.vue'
import CalendarDialog from '@/today/CalendarDialog.vue'
import LaneStrip from '@/today/LaneStrip.vue'
import MinutesTable from '@/today/MinutesTable.vue'
import OrderOfWork from '@/today/OrderOfWork.vue'
import { REACHES, type Block } from '@/today/today'
import WhatIf from '@/today/WhatIf.vue'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import { useKeys } from '@/ui/keys'
import RefusalNote from '@/ui/RefusalNote.vue'
import { stepWords } from '@/ui/phrases'

/** The day: what is next and by when, what runs where, what is late and why. */
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
const hasWork = computed(() => today.data.value?.lanes.some((lane) => lane.blocks.length))
const hours = ref<number>(REACHES[0].hours)
const mine = ref(false)
const looked = ref<Block | null>(null)
const start = ref('')
function look(block: Block, at: string) {
  looked.value = block
  start.value = at
}
const from = computed(() => Math.floor(now.value / 60_000) * 60_000)
const placeOfStep = (block: Block) => placeOf(block.at, block.job_id!)
useKeys(() => [
  { key: 'p', text: t('today.plan-again'), act: () => void again() },
  { key: 'e', text: t('today.my-work-or-all-work'), act: () => (mine.value = !mine.value) },
])
const subscribing = ref(false)
</script>

<template>
  <FromRecord v-if="!today.data.value" :query="today" />
  <template v-else>
    <header class="head">
      <h1>{{ t('today.today') }}</h1>
      <div class="acts">
        <ActButton
          v-for="reach in REACHES"
          :key="reach.hours"
          kind="link"
          :class="{ on: hours === reach.hours }"
          @click="hours = reach.hours"
        >
          {{ reach.text }}
        </ActButton>
        <ActButton kind="link" href="/api/schedule/day.pdf" target="_blank">{{
          t('today.print')
        }}</ActButton>
        <ActButton kind="link" @click="subscribing = true">{{ t('today.calendar') }}</ActButton>
        <ActButton :disabled="busy" @click="again">
          {{ busy ? t('today.planning') : t('today.plan-again-2') }} <kbd>p</kbd>
        </ActButton>
      </div>
    </header>
    <CalendarDialog v-model="subscribing" />
    <RefusalNote v-model="refused" />
    <v-progress-linear v-if="busy" indeterminate height="3" :aria-label="t('today.planning-2')" />
    <p v-if="busy && hasWork" class="small quiet" role="status">
      {{ t('today.the-last-plan-is-shown-while-the-next') }}
    </p>
    <SetUpChecklist v-if="!hasWork" />
    <div class="halves">
      <div>
        <LaneStrip v-model:hours="hours" :lanes="today.data.value.lanes" :now="from" @look="look" />
        <p v-if="looked" class="looked">
          <b>{{ stepWords(looked.step) }}</b> {{ t('today.of', { test: looked.test })
          }}<template v-if="looked.person">, {{ looked.person }}</template
          ><template v-if="looked.place">, {{ looked.place }}</template
          >: {{ looked.why }}.
          <router-link v-if="looked.job_id" :to="placeOfStep(looked)">{{
            t('today.open')
          }}</router-link>
          <PinLine
            v-if="looked.test_id"
            :key="`${looked.id} ${looked.step} ${start}`"
            :block="looked"
            :start="start"
            @pinned="repinned"
          />
        </p>
        <p v-if="!hasWork" class="quiet">
          {{
            busy
              ? t('today.the-day-is-being-planned')
              : t('today.nothing-is-planned-no-test-is-open')
          }}
        </p>
        <p class="small quiet legend">
          <i class="set-up" /> {{ t('today.set-up') }} <i class="hands" /> {{ t('today.hands-on') }}
          <i class="alone" /> {{ t('today.unattended') }} <i class="late" />
          {{ t('today.late-test-the-red-line-is-now') }}
        </p>
        <OrderOfWork />
        <WhatIf :lanes="today.data.value.lanes" />
        <MinutesTable />
      </div>
      <TodayAside v-model:mine="mine" :today="today.data.value" :now="now" :busy="busy" />
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

h2 {
  margin: 14px 0 6px;
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

  .head,
  .acts {
    flex-wrap: wrap;
    gap: 4px 14px;
  }
}

@media print {
  .acts {
    display: none;
  }
}
</style>
