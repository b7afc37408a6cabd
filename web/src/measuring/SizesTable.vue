<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import { fixed, three } from '@/ui/numbers'
import ActButton from '@/ui/ActButton.vue'
import RuledTable from '@/ui/RuledTable.vue'

/** What was read of a specimen, and the section that comes of it. */
type Specimen = Schemas['MeasuredSpecimen']
defineProps<{
  specimen: Specimen
  sizes: Specimen['sizes']
  rule: Schemas['MeasuringView']['area_rule']
  changeable: boolean
  busy: boolean
}>()
defineEmits<{ rule: [] }>()
const figure = (size: number | null) => (size === null ? '–' : fixed(size, 3))
</script>

<template>
  <RuledTable>
    <thead>
      <tr>
        <th>{{ t('measuring.size') }}</th>
        <th class="right">{{ t('measuring.readings-mm') }}</th>
        <th class="right">{{ t('measuring.mean') }}</th>
        <th class="right">{{ t('measuring.min') }}</th>
        <th class="right">{{ t('measuring.spread') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in sizes" :key="row.field">
        <td>{{ row.title }}</td>
        <td class="right mono readings">
          <span
            v-for="(reading, number) in row.readings"
            :key="number"
            :class="{ bad: row.remarks.some((each) => each.place === number) }"
            >{{ reading }}</span
          >
        </td>
        <td class="right mono">{{ figure(row.mean_mm) }}</td>
        <td class="right mono">{{ figure(row.min_mm) }}</td>
        <td class="right mono">
          {{ row.spread_percent === null ? '–' : `${fixed(row.spread_percent, 1)} %` }}
        </td>
      </tr>
    </tbody>
  </RuledTable>
  <p v-if="specimen.mean_mm2 !== null" class="section">
    {{ t('measuring.section') }}
    <span :class="{ own: rule === 'mean' }"
      >{{ t('measuring.mean-2') }} <b class="mono">{{ three(specimen.mean_mm2) }}</b> mm²</span
    >
    <span :class="{ own: rule === 'minimum' }"
      >{{ t('measuring.smallest') }} <b class="mono">{{ three(specimen.min_mm2) }}</b> mm²</span
    >
    <ActButton v-if="changeable" kind="link" :disabled="busy" @click="$emit('rule')">
      {{
        t('measuring.use-the', {
          part: rule === 'mean' ? t('measuring.smallest') : t('measuring.mean-2'),
        })
      }}
    </ActButton>
    <span v-else-if="rule" class="quiet small">{{
      t('measuring.this-test-uses-the', {
        part: rule === 'mean' ? t('measuring.mean-2') : t('measuring.smallest'),
      })
    }}</span>
  </p>
</template>

<style scoped>
.readings span + span {
  margin-left: 12px;
}

.section {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
  align-items: baseline;
}

.own {
  text-decoration: underline;
  text-underline-offset: 4px;
}
</style>
