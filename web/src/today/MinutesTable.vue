<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { ask, client } from '@/api/client'
import { fixed } from '@/ui/numbers'

/** What is planned with: minutes a specimen by the guide, and by the record once it has ten. */
const open = ref(false)
const minutes = useQuery({
  queryKey: ['minutes'],
  queryFn: () => ask(client.GET('/api/today/minutes')),
  enabled: open,
})
const shown = (figure: number | null) => (figure === null ? '–' : fixed(figure, 1))
</script>

<template>
  <details @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary>Minutes that are planned with</summary>
    <table v-if="minutes.data.value?.length">
      <thead>
        <tr>
          <th>A specimen at the bench</th>
          <th class="right">guide</th>
          <th class="right">record</th>
          <th class="right">seen</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in minutes.data.value" :key="row.method">
          <td>{{ row.title }}</td>
          <td class="mono right">{{ shown(row.by_guide) }}</td>
          <td class="mono right">{{ shown(row.by_record) }}</td>
          <td class="mono right">{{ row.seen }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else class="small quiet">
      Nothing was tested at the bench yet: the guides are planned with.
    </p>
    <p class="small quiet">The record is believed once it has ten of a method.</p>
  </details>
</template>

<style scoped>
details {
  margin-top: 14px;
  padding-top: 10px;
  border-top: 1px solid var(--hair);
}

summary {
  min-height: 30px;
  cursor: pointer;
}

table {
  border-collapse: collapse;
}

th {
  color: var(--ink-2);
  font-size: 13px;
  font-weight: 400;
  text-align: left;
}

td,
th {
  padding: 3px 18px 3px 0;
  border-top: 1px solid var(--hair);
}
</style>
