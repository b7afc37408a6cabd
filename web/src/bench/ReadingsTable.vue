<script setup lang="ts">
import { t } from '@/ui/words'
import { signed } from '@/ui/numbers'
import type { SpecimenView, TestView } from '@/api/client'
import ActButton from '@/ui/ActButton.vue'
import RuledTable from '@/ui/RuledTable.vue'

/** The specimens that count or were brought in, each with its figure and its state. */
defineProps<{ test: TestView }>()
defineEmits<{ look: [specimen: SpecimenView] }>()
</script>

<template>
  <RuledTable>
    <thead>
      <tr>
        <th>{{ t('bench.label') }}</th>
        <th>{{ t('bench.counts-in') }}</th>
        <th class="right">{{ test.rows[0]?.title ?? t('bench.result') }}</th>
        <th>{{ t('bench.state') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="specimen in test.specimens.filter((row) => row.called || row.run_id || row.void)"
        :key="specimen.id"
        :class="{ void: specimen.void }"
      >
        <td class="mono">
          <ActButton
            v-if="specimen.run_id"
            kind="plain"
            class="opens"
            @click="$emit('look', specimen)"
          >
            {{ specimen.label }}
          </ActButton>
          <template v-else>{{ specimen.label }}</template>
        </td>
        <td>{{ specimen.works_on || '–' }}</td>
        <td class="mono right">{{ signed(specimen.value_text ?? '–') }}</td>
        <td>
          <template v-if="specimen.void">{{
            t('bench.void-2', { title: specimen.void.title.toLowerCase() })
          }}</template>
          <template v-else-if="specimen.state === 'to-look-at'">{{
            t('bench.to-be-accepted')
          }}</template>
          <template v-else-if="specimen.state === 'tested'">{{ t('bench.accepted-2') }}</template>
          <template v-else>{{ specimen.state.replace('-', ' ') }}</template>
          <p v-for="flag in specimen.flags" :key="flag.code" class="small flag">
            {{ flag.text }}
          </p>
        </td>
      </tr>
    </tbody>
  </RuledTable>
</template>

<style scoped>
.flag {
  color: var(--ink-2);
}

.void td:first-child {
  text-decoration: line-through;
}
</style>
