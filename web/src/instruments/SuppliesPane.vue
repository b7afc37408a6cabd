<script setup lang="ts">
import { reactive } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { useInstruments, useSupplies } from '@/instruments/instruments'
import ActButton from '@/ui/ActButton.vue'
import { figureFrom } from '@/ui/numbers'
import RefusalNote from '@/ui/RefusalNote.vue'
import { dayOf } from '@/ui/dates'
import RuledTable from '@/ui/RuledTable.vue'

/** What wears out: the lots in use with what they have done, and one more that is opened. */
const supplies = useSupplies()
const instruments = useInstruments()
const { act, refused, busy } = useAct()
const empty = () => ({ kind: '', lot: '', station: 0, count: '', days: '' })
const typed = reactive(empty())
const whole = (text: string) => (text.trim() ? figureFrom(text) : null)

const limits = (lot: Schemas['SupplyView']) =>
  [lot.limit_count, lot.limit_days && `${lot.limit_days} d`].filter(Boolean).join(', ')

async function open() {
  const body = {
    kind: typed.kind,
    lot: typed.lot,
    station_id: typed.station || null,
    limit_count: whole(typed.count),
    limit_days: whole(typed.days),
  }
  await act(async () => {
    await ask(client.POST('/api/consumables', { body }))
    Object.assign(typed, empty())
  })
}
const finish = (supply_id: number) =>
  act(() =>
    ask(client.POST('/api/consumables/{supply_id}/finish', { params: { path: { supply_id } } })),
  )
</script>

<template>
  <section>
    <header>
      <h2>Consumables</h2>
      <p class="quiet">
        The bench counts specimens, rubs or strokes on each lot and says when a change is due. The
        report names the lot.
      </p>
    </header>
    <RuledTable v-if="supplies.data.value?.in_use.length" dense>
      <thead>
        <tr>
          <th>Item</th>
          <th>Lot</th>
          <th>Station</th>
          <th>Opened</th>
          <th class="right">Used</th>
          <th class="right">Limit</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="lot in supplies.data.value.in_use" :key="lot.id" :class="{ due: lot.due }">
          <td>
            <b>{{ lot.kind }}</b>
          </td>
          <td class="mono">{{ lot.lot }}</td>
          <td>{{ lot.station || 'all stations' }}</td>
          <td class="small">{{ dayOf(lot.opened_at) }}</td>
          <td class="mono right">
            {{ lot.used }} <small class="quiet">{{ lot.unit }}</small>
          </td>
          <td class="mono right">
            {{ limits(lot) }}
          </td>
          <td class="right">
            <ActButton kind="link" class="small" :disabled="busy" @click="finish(lot.id)">
              used up
            </ActButton>
          </td>
        </tr>
      </tbody>
    </RuledTable>
    <p v-else class="quiet">No lot is in use. Open a lot, and the bench counts its use.</p>
    <form @submit.prevent="open">
      <h3>Open lot</h3>
      <div class="fields">
        <v-combobox v-model="typed.kind" label="Item" :items="supplies.data.value?.kinds ?? []" />
        <v-text-field v-model="typed.lot" class="mono" label="Lot" />
        <v-text-field v-model="typed.count" class="mono" label="Change after" suffix="specimens" />
        <v-text-field v-model="typed.days" class="mono" label="or after" suffix="days" />
        <v-select
          v-model="typed.station"
          label="Used at"
          :items="[
            { value: 0, title: 'all stations' },
            ...(instruments.data.value ?? [])
              .filter((instrument) => instrument.station_id)
              .map((each) => ({ value: each.station_id, title: each.station })),
          ]"
        />
      </div>
      <RefusalNote v-model="refused" />
      <ActButton :disabled="busy || !typed.kind || !typed.lot.trim()">Open lot</ActButton>
    </form>
    <template v-if="supplies.data.value?.finished.length">
      <h3>Finished</h3>
      <p v-for="lot in supplies.data.value.finished" :key="lot.id" class="small quiet">
        {{ lot.kind }}, lot <span class="mono">{{ lot.lot }}</span>: {{ lot.used }} used, until
        {{ dayOf(lot.finished_at) }}
      </p>
    </template>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 16px;
  align-content: start;
  min-width: 0;
}

th,
.due td:first-child {
  padding-left: 10px;
  border-left: 5px solid var(--ochre);
}

.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(200px, 1fr));
  gap: 10px 16px;
  align-items: start;
  margin: 8px 0 12px;
}

select {
  display: block;
  min-height: 30px;
  border: 0;
  border-bottom: 1.5px dotted var(--ink-3);
  background: transparent;
  color: var(--blue);
  font: inherit;
  appearance: auto;
}
</style>
