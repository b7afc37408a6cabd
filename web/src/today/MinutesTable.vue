<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { ask, client } from '@/api/client'
import { fixed } from '@/ui/numbers'
import ActButton from '@/ui/ActButton.vue'
import RuledTable from '@/ui/RuledTable.vue'
import FromRecord from '@/ui/FromRecord.vue'

/** What is planned with: minutes a specimen by the guide, and by the record once it has ten. */
const open = ref(false)
const opened = ref('')
const minutes = useQuery({
  queryKey: ['minutes'],
  queryFn: () => ask(client.GET('/api/schedule/minutes')),
  enabled: open,
})
const shown = (figure: number | null) => (figure === null ? '–' : fixed(figure, 1))
</script>

<template>
  <details @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary>{{ t('today.planned-minutes') }}</summary>
    <FromRecord v-if="!minutes.data.value" :query="minutes" inline />
    <RuledTable v-else dense>
      <thead>
        <tr>
          <th>{{ t('today.specimen-at-the-bench-steps') }}</th>
          <th class="right">{{ t('today.guide') }}</th>
          <th class="right">{{ t('today.recorded') }}</th>
          <th class="right">{{ t('today.count') }}</th>
        </tr>
      </thead>
      <tbody>
        <template v-for="row in minutes.data.value" :key="row.method">
          <tr>
            <td>
              <ActButton
                v-if="row.steps.length"
                kind="link"
                :aria-expanded="opened === row.method"
                @click="opened = opened === row.method ? '' : row.method"
              >
                {{ row.title }}
              </ActButton>
              <template v-else>{{ row.title }}</template>
            </td>
            <td class="mono right">{{ shown(row.by_guide) }}</td>
            <td class="mono right">{{ shown(row.by_record) }}</td>
            <td class="mono right">{{ row.seen }}</td>
          </tr>
          <tr v-for="step in opened === row.method ? row.steps : []" :key="step.title" class="step">
            <td>{{ step.title }}</td>
            <td class="mono right">{{ shown(step.by_guide) }}</td>
            <td class="mono right">{{ shown(step.by_record) }}</td>
            <td class="mono right">{{ step.seen }}</td>
          </tr>
        </template>
      </tbody>
    </RuledTable>
    <p class="small quiet">
      {{ t('today.recorded-times-are-used-after-ten') }}
    </p>
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

.step td {
  font-size: 14px;
  color: var(--ink-2);
}

.step td:first-child {
  padding-left: 18px;
}
</style>
