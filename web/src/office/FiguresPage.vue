<script setup lang="ts">
import { t } from '@/ui/words'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ask, client } from '@/api/client'
import { serverNow } from '@/app/clock'
import MonthsChart from '@/office/MonthsChart.vue'
import UseTable from '@/office/UseTable.vue'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import RuledTable from '@/ui/RuledTable.vue'
import { isoDay } from '@/ui/dates'
import { monthName, monthsBack, shortMonth } from '@/office/months'

/** The manager's figures: turnaround and lateness by month, and who and what worked in decimal. */
const now = isoDay(new Date(serverNow())).slice(0, 7)
const month = ref(now)
const choices = monthsBack(now, 36).map((value) => ({ value, title: monthName(value) }))
const query = useQuery({
  queryKey: ['figures', month],
  queryFn: () => ask(client.GET('/api/figures', { params: { query: { month: month.value } } })),
  placeholderData: keepPreviousData,
})
const view = computed(() => query.data.value)
const decimal = (figure: number | null | undefined) => (figure == null ? '–' : figure.toFixed(1))
</script>

<template>
  <header>
    <h1>{{ t('office.figures') }}</h1>
    <v-select
      v-model="month"
      class="month"
      density="compact"
      :items="choices"
      :label="t('office.month')"
    />
    <ActButton :href="`/api/figures.xlsx?month=${month}`">{{
      t('office.as-a-workbook')
    }}</ActButton>
  </header>
  <FromRecord v-if="!view" :query="query" />
  <div v-else class="figures">
    <section>
      <h2>{{ t('office.turnaround-against-promise') }}</h2>
      <MonthsChart :months="view.months" />
      <RuledTable dense>
        <thead>
          <tr>
            <th>{{ t('office.month') }}</th>
            <th class="right">{{ t('office.jobs-released') }}</th>
            <th class="right">{{ t('office.turnaround-days') }}</th>
            <th class="right">{{ t('office.promised-days') }}</th>
            <th class="right">{{ t('office.late') }}</th>
            <th class="right">{{ t('office.lateness-days') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="line in [...view.months].reverse()" :key="line.month">
            <td class="of">{{ shortMonth(line.month) }}</td>
            <td class="mono right">{{ line.released || '–' }}</td>
            <td class="mono right">{{ decimal(line.turnaround_days) }}</td>
            <td class="mono right">{{ decimal(line.promised_days) }}</td>
            <td class="mono right" :class="{ late: line.late }">{{ line.late || '–' }}</td>
            <td class="mono right">{{ decimal(line.late_days) }}</td>
          </tr>
        </tbody>
      </RuledTable>
    </section>
    <section>
      <h2>{{ t('office.people-in', { month: monthName(view.month) }) }}</h2>
      <p v-if="!view.people.length" class="quiet">{{ t('office.nobody-worked') }}</p>
      <RuledTable v-else dense>
        <thead>
          <tr>
            <th>{{ t('office.person') }}</th>
            <th class="right">{{ t('office.jobs-received') }}</th>
            <th class="right">{{ t('office.runs') }}</th>
            <th class="right">{{ t('office.hours-of-runs') }}</th>
            <th class="right">{{ t('office.voids') }}</th>
            <th class="right">{{ t('office.reports-released') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="line in view.people" :key="line.name">
            <td class="of">{{ line.name }}</td>
            <td class="mono right">{{ line.received }}</td>
            <td class="mono right">{{ line.runs }}</td>
            <td class="mono right">{{ decimal(line.hours) }}</td>
            <td class="mono right">{{ line.voids }}</td>
            <td class="mono right">{{ line.released }}</td>
          </tr>
        </tbody>
      </RuledTable>
    </section>
    <UseTable
      :title="t('office.instruments-in', { month: monthName(view.month) })"
      :column="t('office.instrument')"
      :lines="view.instruments"
    />
    <UseTable
      :title="t('office.stations-in', { month: monthName(view.month) })"
      :column="t('office.station')"
      :lines="view.stations"
    />
    <section v-if="view.voids.length" class="wide">
      <h2>{{ t('office.voids-in', { month: monthName(view.month) }) }}</h2>
      <RuledTable dense>
        <thead>
          <tr>
            <th>{{ t('office.method') }}</th>
            <th>{{ t('office.cause') }}</th>
            <th>{{ t('office.person') }}</th>
            <th class="right">{{ t('office.voids') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="line in view.voids" :key="`${line.method} ${line.cause} ${line.person}`">
            <td>{{ line.method }}</td>
            <td>{{ line.cause }}</td>
            <td>{{ line.person }}</td>
            <td class="mono right">{{ line.count }}</td>
          </tr>
        </tbody>
      </RuledTable>
    </section>
  </div>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 22px;
  align-items: center;
  margin-bottom: 14px;
}

.month {
  flex: 0 0 230px;
}

.figures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(480px, 100%), 1fr));
  gap: 26px 40px;
}

.figures > :deep(section) {
  display: grid;
  gap: 8px;
  align-content: start;
}

.of {
  white-space: nowrap;
}

.late {
  color: var(--brick);
  font-weight: 700;
}
</style>
