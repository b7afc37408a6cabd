<script setup lang="ts">
import { t } from '@/ui/words'
import { reactive } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { useInstruments, useSupplies } from '@/instruments/instruments'
import ActButton from '@/ui/ActButton.vue'
import { figureFrom } from '@/ui/numbers'
import RefusalNote from '@/ui/RefusalNote.vue'
import { dayOf } from '@/ui/dates'
import DraftNote from '@/ui/DraftNote.vue'
import { useDraftOf } from '@/ui/drafts'
import RuledTable from '@/ui/RuledTable.vue'
import FromRecord from '@/ui/FromRecord.vue'

/** What wears out: the lots in use with what they have done, and one more that is opened. */
const supplies = useSupplies()
const instruments = useInstruments()
const { act, refused, busy } = useAct()
const empty = () => ({ kind: '', lot: '', station: 0, count: '', days: '' })
const typed = reactive(empty())
const draft = useDraftOf(() => 'consumable', typed)
draft.begin()
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
    draft.saved()
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
      <h2>{{ t('instruments.consumables') }}</h2>
      <p class="quiet">
        {{ t('instruments.the-bench-counts-specimens-rubs-or') }}
      </p>
    </header>
    <FromRecord v-if="!supplies.data.value" :query="supplies" inline />
    <RuledTable v-else-if="supplies.data.value.in_use.length" dense>
      <thead>
        <tr>
          <th>{{ t('instruments.item') }}</th>
          <th>{{ t('instruments.lot') }}</th>
          <th>{{ t('instruments.station') }}</th>
          <th>{{ t('instruments.opened') }}</th>
          <th class="right">{{ t('instruments.used') }}</th>
          <th class="right">{{ t('instruments.limit-2') }}</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="lot in supplies.data.value.in_use" :key="lot.id" :class="{ due: lot.due }">
          <td>
            <b>{{ lot.kind }}</b>
          </td>
          <td class="mono">{{ lot.lot }}</td>
          <td>{{ lot.station || t('instruments.all-stations') }}</td>
          <td class="small">{{ dayOf(lot.opened_at) }}</td>
          <td class="mono right">
            {{ lot.used }} <small class="quiet">{{ lot.unit }}</small>
          </td>
          <td class="mono right">
            {{ limits(lot) }}
          </td>
          <td class="right">
            <ActButton kind="link" class="small" :disabled="busy" @click="finish(lot.id)">
              {{ t('instruments.used-up') }}
            </ActButton>
          </td>
        </tr>
      </tbody>
    </RuledTable>
    <p v-else class="quiet">{{ t('instruments.no-lot-is-in-use-open-a-lot-and-the') }}</p>
    <form @submit.prevent="open">
      <h3>{{ t('instruments.open-lot') }}</h3>
      <div class="fields">
        <v-combobox
          v-model="typed.kind"
          :label="t('instruments.item')"
          :items="supplies.data.value?.kinds ?? []"
        />
        <v-text-field v-model="typed.lot" class="mono" :label="t('instruments.lot')" />
        <v-text-field
          v-model="typed.count"
          class="mono"
          :label="t('instruments.change-after')"
          :suffix="t('instruments.specimens')"
        />
        <v-text-field
          v-model="typed.days"
          class="mono"
          :label="t('instruments.or-after')"
          :suffix="t('instruments.days')"
        />
        <v-select
          v-model="typed.station"
          :label="t('instruments.used-at')"
          :items="[
            { value: 0, title: t('instruments.all-stations') },
            ...(instruments.data.value ?? [])
              .filter((instrument) => instrument.station_id)
              .map((each) => ({ value: each.station_id, title: each.station })),
          ]"
        />
      </div>
      <DraftNote :draft="draft" />
      <RefusalNote v-model="refused" />
      <ActButton :disabled="busy || !typed.kind || !typed.lot.trim()">{{
        t('instruments.open-lot')
      }}</ActButton>
    </form>
    <template v-if="supplies.data.value?.finished.length">
      <h3>{{ t('instruments.finished') }}</h3>
      <p v-for="lot in supplies.data.value.finished" :key="lot.id" class="small quiet">
        {{ t('instruments.lot-2', { kind: lot.kind }) }} <span class="mono">{{ lot.lot }}</span>{{
          t('instruments.used-until', { used: lot.used, finished_at: dayOf(lot.finished_at) })
        }}
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
