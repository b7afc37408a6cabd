<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { ask, client } from '@/api/client'
import { signed } from '@/ui/numbers'
import { clockTime, shortMoment } from '@/ui/dates'
import RuledTable from '@/ui/RuledTable.vue'

/** Racks of bars in their order, each with the moment it goes in, and the heats of the barrel. */
const order = useQuery({
  queryKey: ['order'],
  queryFn: () => ask(client.GET('/api/schedule/order-of-work')),
  refetchInterval: 60_000,
})
const degrees = (figure: number) => `${signed(String(figure))} °C`
</script>

<template>
  <template v-if="order.data.value?.racks.length">
    <h2>{{ t('today.bars-by-pendulum-and-temperature') }}</h2>
    <RuledTable dense>
      <thead>
        <tr>
          <th>{{ t('today.batch') }}</th>
          <th class="right">{{ t('today.bars') }}</th>
          <th class="right">{{ t('today.at') }}</th>
          <th>{{ t('today.pendulum') }}</th>
          <th class="right">{{ t('today.in-at') }}</th>
          <th class="right">{{ t('today.conditioned') }}</th>
          <th class="right">{{ t('today.tested') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="turn in order.data.value.racks" :key="`${turn.test} ${turn.temperature_c}`">
          <td>
            <router-link :to="`/bench/${turn.job_id}`">{{ turn.test }}</router-link>
          </td>
          <td class="mono right">{{ turn.bars }}</td>
          <td class="mono right">{{ degrees(turn.temperature_c) }}</td>
          <td>
            <b v-if="turn.changes_pendulum">{{ t('today.change-to') }}</b>{{
              turn.pendulum_j ? `${signed(String(turn.pendulum_j))} J` : t('today.to-be-chosen')
            }}
          </td>
          <td class="mono right">
            {{ turn.goes_in ? clockTime(turn.goes_in) : turn.is_at_room ? t('today.room') : '–' }}
          </td>
          <td class="mono right">{{ turn.soaked_at ? clockTime(turn.soaked_at) : '–' }}</td>
          <td class="mono right">
            <template v-if="turn.struck_from && turn.struck_until"
              >{{ shortMoment(turn.struck_from) }}–{{ clockTime(turn.struck_until) }}</template
            >
            <span v-else class="quiet">{{ t('today.not-scheduled') }}</span>
          </td>
        </tr>
      </tbody>
    </RuledTable>
  </template>
  <template v-if="order.data.value?.heats.length">
    <h2>{{ t('today.melt-series-low-to-high-temperature') }}</h2>
    <p v-for="heat in order.data.value.heats" :key="`${heat.temperature_c} ${heat.load_kg}`">
      <b class="mono">{{ degrees(heat.temperature_c) }}</b>, {{ signed(String(heat.load_kg)) }} kg:
      <template v-for="(test, place) in heat.tests" :key="test + place"
        ><template v-if="place">, </template
        ><router-link :to="`/bench/${heat.job_ids[place]}`">{{ test }}</router-link></template
      >
    </p>
  </template>
</template>

<style scoped>
h2 {
  margin: 18px 0 6px;
}
</style>
