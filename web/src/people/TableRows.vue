<script setup lang="ts">
import { signed } from '@/ui/numbers'
import { changed, newRow, optionsOf, type Column } from '@/people/houseTables'

/** A table of the house, row by row, to be typed into. */
const props = defineProps<{
  rows: Record<string, unknown>[]
  columns: Column[]
  choices: Record<string, string[]>
  properties: Record<string, string[]>
  mayChange: boolean
  begun: (row: Record<string, unknown>) => Record<string, unknown>
  title: string
}>()
const emit = defineEmits<{ keep: [rows: Record<string, unknown>[]] }>()
function set(place: number, column: Column, text: string) {
  const row = changed(props.rows[place]!, column, text)
  const own = column.name === 'atmosphere' ? props.begun(row) : row
  emit(
    'keep',
    props.rows.map((each, other) => (other === place ? own : each)),
  )
}
</script>

<template>
  <table>
    <thead>
      <tr>
        <th v-for="column in columns" :key="column.name">{{ column.title }}</th>
        <th></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(row, place) in rows" :key="place">
        <td v-for="column in columns" :key="column.name">
          <select
            v-if="column.kind === 'choice'"
            :value="row[column.name]"
            :disabled="!mayChange"
            :aria-label="`${column.title}, row ${place + 1} of ${title}`"
            @change="set(place, column, ($event.target as HTMLSelectElement).value)"
          >
            <option
              v-for="value in optionsOf(column, row, choices, properties)"
              :key="value"
              :value="value"
            >
              {{ value }}
            </option>
          </select>
          <input
            v-else
            :value="signed(String(row[column.name] ?? ''))"
            :class="{ mono: column.kind === 'number' }"
            :disabled="!mayChange"
            :aria-label="`${column.title}, row ${place + 1} of ${title}`"
            @change="set(place, column, ($event.target as HTMLInputElement).value)"
          />
        </td>
        <td>
          <button
            v-if="mayChange"
            type="button"
            class="plain small"
            :aria-label="`Remove row ${place + 1} of ${title}`"
            @click="
              emit(
                'keep',
                rows.filter((_, other) => other !== place),
              )
            "
          >
            remove
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <button
    v-if="mayChange"
    type="button"
    class="plain link small"
    @click="emit('keep', [...rows, begun(newRow(columns, choices, properties))])"
  >
    add row
  </button>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
}

th {
  padding: 2px 8px 2px 0;
  font-size: 13.5px;
  font-weight: 400;
  color: var(--ink-2);
  text-align: left;
}

td {
  padding: 1px 8px 1px 0;
}

td:last-child {
  width: 74px;
  padding-right: 0;
  white-space: nowrap;
  text-align: right;
}

input,
select {
  box-sizing: border-box;
  width: 100%;
  min-width: 58px;
  min-height: 30px;
  padding: 0 6px;
  color: var(--ink);
  background: var(--page);
  border: 1px solid var(--hair);
}

.link {
  padding: 6px 0 10px;
}
</style>
