<script setup lang="ts">
import { counted, t } from '@/ui/words'
import { computed, reactive } from 'vue'
import type { Schemas } from '@/api/client'
import { COLUMNS, SCHOOLS, TABLES, type TableName } from '@/people/labTables'
import TableRows from '@/people/TableRows.vue'
import WeekDays from '@/people/WeekDays.vue'

/** The tables that this laboratory edits; a job keeps those that it began with. */
const tables = defineModel<Schemas['LabTables']>({ required: true })
const props = defineProps<{ house: Schemas['LabSettingsView']; mayChange: boolean }>()
const choices = computed(() => ({
  atmosphere: props.house.atmospheres.map((row) => row.atmosphere),
  method: Object.keys(props.house.properties),
}))
function rowsOf(name: TableName) {
  return tables.value[name] as unknown as Record<string, unknown>[]
}

function keep(name: TableName, rows: Record<string, unknown>[]) {
  tables.value = { ...tables.value, [name]: rows }
}
/** Hours and minutes; a clock has no seconds here. */
const hours = reactive({
  get days() {
    return tables.value.hours?.days ?? []
  },
  set days(days: number[]) {
    const inOrder = [...days].sort((a, b) => a - b)
    tables.value = { ...tables.value, hours: { ...tables.value.hours, days: inOrder } }
  },
  get start() {
    return (tables.value.hours?.start ?? '').slice(0, 5)
  },
  set start(start: string) {
    tables.value = { ...tables.value, hours: { ...tables.value.hours, start } }
  },
  get end() {
    return (tables.value.hours?.end ?? '').slice(0, 5)
  },
  set end(end: string) {
    tables.value = { ...tables.value, hours: { ...tables.value.hours, end } }
  },
})
/** A new row begins as what is usual, where the table has such. */
function begun(name: TableName, row: Record<string, unknown>) {
  if (name !== 'atmospheres') return row
  return { ...(props.house.atmospheres.find((each) => each.atmosphere === row.atmosphere) ?? row) }
}
</script>

<template>
  <section class="tables">
    <h2>{{ t('people.lab-tables') }}</h2>
    <details v-for="table in TABLES" :key="table.name" name="house-table">
      <summary>
        {{ table.title }}
        <span class="quiet small">{{ counted('people.rows', rowsOf(table.name).length) }}</span>
      </summary>
      <p class="small quiet">{{ table.text }}</p>
      <TableRows
        :rows="rowsOf(table.name)"
        :columns="COLUMNS[table.name]"
        :choices="choices"
        :properties="house.properties"
        :may-change="mayChange"
        :begun="(row) => begun(table.name, row)"
        :title="table.title"
        @keep="keep(table.name, $event)"
      />
    </details>
    <p class="school">
      <span
        >{{ t('people.lab-working-hours') }}<br /><span class="small quiet">{{
          t('people.these-hours-apply-to-everyone-without')
        }}</span></span
      >
      <span class="hours">
        <WeekDays v-model="hours.days" :disabled="!mayChange" />
        <v-text-field
          v-model="hours.start"
          class="mono short"
          density="compact"
          :label="t('people.from')"
          :disabled="!mayChange"
        />
        <v-text-field
          v-model="hours.end"
          class="mono short"
          density="compact"
          :label="t('people.to')"
          :disabled="!mayChange"
        />
      </span>
    </p>
    <div v-for="school in SCHOOLS" :key="school.name" class="school">
      <span
        >{{ school.title }}<br /><span class="small quiet">{{ school.text }}</span></span
      >
      <v-select
        v-model="tables[school.name]"
        density="compact"
        single-line
        :aria-label="school.title"
        :items="school.values"
        :disabled="!mayChange"
      />
    </div>
  </section>
</template>

<style scoped>
.tables {
  display: grid;
  gap: 6px;
}

details {
  border-bottom: 1px solid var(--hair);
}

summary {
  padding: 6px 0;
  font-weight: 700;
  cursor: pointer;
}

.school {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 16px;
  align-items: center;
  padding: 6px 0;
  line-height: 1.3;
}

.hours {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  justify-content: flex-end;
}

select {
  min-height: 34px;
  padding: 0 8px;
  color: var(--ink);
  background: var(--page);
  border: 1.5px solid var(--ink-3);
}
</style>
