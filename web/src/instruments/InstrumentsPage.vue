<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { useSession } from '@/app/session'
import InstrumentPane from '@/instruments/InstrumentPane.vue'
import NewInstrumentDialog from '@/instruments/NewInstrumentDialog.vue'
import SuppliesPane from '@/instruments/SuppliesPane.vue'
import { STATUS, useInstruments, useSupplies } from '@/instruments/instruments'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import { dayOf } from '@/ui/dates'

/** What the laboratory works with: what is not in order first, and what wears out. */
const { me } = useSession()
const instruments = useInstruments()
const supplies = useSupplies()
const route = useRoute()
const picked = ref(typeof route.query.serial === 'string' ? route.query.serial : null)
const adding = ref(false)
const showsSupplies = computed(() => picked.value === '')
const chosen = computed(() => {
  const all = instruments.data.value ?? []
  return all.find((each) => each.serial === picked.value) ?? all[0] ?? null
})
const due = computed(() => supplies.data.value?.in_use.filter((lot) => lot.due).length ?? 0)
</script>

<template>
  <FromRecord v-if="!instruments.data.value" :query="instruments" />
  <div v-else class="two">
    <aside>
      <h1>{{ t('instruments.instruments') }}</h1>
      <ul>
        <li>
          <ActButton
            kind="plain"
            :class="{ open: showsSupplies }"
            :aria-pressed="showsSupplies"
            @click="picked = ''"
          >
            <span class="name">{{ t('instruments.consumables') }}</span>
            <span v-if="due" class="mono small overdue">{{ t('instruments.due-2', { due }) }}</span>
          </ActButton>
        </li>
        <li v-for="each in instruments.data.value" :key="each.serial">
          <ActButton
            kind="plain"
            :class="{ open: !showsSupplies && chosen?.serial === each.serial }"
            :aria-pressed="!showsSupplies && chosen?.serial === each.serial"
            @click="picked = each.serial"
          >
            <span class="name">{{ each.station || each.name }}</span>
            <span class="small" :class="each.status">{{
              each.status === 'good' ? '' : STATUS[each.status]
            }}</span>
            <span class="mono small quiet"
              >{{ each.serial }} · {{ dayOf(each.calibration_due_at) }}</span
            >
          </ActButton>
        </li>
      </ul>
      <ActButton v-if="me?.may.includes('equip')" @click="adding = true">{{
        t('instruments.add-instrument')
      }}</ActButton>
    </aside>
    <SuppliesPane v-if="showsSupplies" />
    <InstrumentPane
      v-else-if="chosen"
      :key="chosen.serial"
      :instrument="chosen"
      @gone="picked = null"
    />
    <NewInstrumentDialog v-model="adding" @added="picked = $event" />
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 250px minmax(0, 1fr);
  gap: 34px;
  max-width: 1240px;
}

aside {
  display: grid;
  gap: 12px;
  align-content: start;
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

li button {
  display: grid;
  grid-template-columns: 1fr auto;
  width: 100%;
  min-height: 52px;
  align-content: center;
  padding: 5px 10px 5px 12px;
  border-bottom: 1px solid var(--hair);
  border-left: 4px solid transparent;
  line-height: 1.25;
  text-align: left;
}

li .open {
  border-left-color: var(--blue);
  background: var(--sunk);
}

.name {
  font-weight: 600;
}

.mono.quiet {
  grid-column: 1 / -1;
}

.out {
  color: var(--brick);
  font-weight: 700;
}

.overdue,
.watch {
  color: var(--ochre);
  font-weight: 700;
}

.retired {
  color: var(--ink-3);
}

@media (max-width: 1100px) {
  .two {
    grid-template-columns: 205px minmax(0, 1fr);
    gap: 22px;
  }
}

@media (max-width: 720px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
