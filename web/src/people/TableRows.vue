<script setup lang="ts">
import { t } from '@/ui/words'
import { signed } from '@/ui/numbers'
import { changed, newRow, optionsOf, type Column } from '@/people/labTables'
import ActButton from '@/ui/ActButton.vue'
import RuledTable from '@/ui/RuledTable.vue'

/** A table of the laboratory, row by row, to be typed into. */
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
  <RuledTable dense>
    <thead>
      <tr>
        <th v-for="column in columns" :key="column.name">{{ column.title }}</th>
        <th></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(row, place) in rows" :key="place">
        <td v-for="column in columns" :key="column.name">
          <v-select
            v-if="column.kind === 'choice'"
            :model-value="String(row[column.name])"
            density="compact"
            single-line
            :items="optionsOf(column, row, choices, properties)"
            :disabled="!mayChange"
            :aria-label="
              t('people.row-of', { title: column.title, place: place + 1, title2: title })
            "
            @update:model-value="set(place, column, $event ?? '')"
          />
          <v-text-field
            v-else
            :model-value="signed(String(row[column.name] ?? ''))"
            density="compact"
            single-line
            :class="{ mono: column.kind === 'number' }"
            :disabled="!mayChange"
            :aria-label="
              t('people.row-of', { title: column.title, place: place + 1, title2: title })
            "
            @change="set(place, column, ($event.target as HTMLInputElement).value)"
          />
        </td>
        <td>
          <ActButton
            v-if="mayChange"
            type="button"
            kind="plain"
            class="small"
            :aria-label="t('people.remove-row-of', { place: place + 1, title })"
            @click="
              emit(
                'keep',
                rows.filter((_, other) => other !== place),
              )
            "
          >
            {{ t('people.remove') }}
          </ActButton>
        </td>
      </tr>
    </tbody>
  </RuledTable>
  <ActButton
    v-if="mayChange"
    type="button"
    kind="link"
    class="small"
    @click="emit('keep', [...rows, begun(newRow(columns, choices, properties))])"
  >
    {{ t('people.add-row') }}
  </ActButton>
</template>

<style scoped>
td:last-child {
  width: 74px;
  padding-right: 0;
  white-space: nowrap;
  text-align: right;
}

td .v-input {
  min-width: 84px;
}

.link {
  padding: 6px 0 10px;
}
</style>
