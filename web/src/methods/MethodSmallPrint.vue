<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { fieldWords } from '@/jobs/schema'
import { shown } from '@/methods/shown'
import RuledTable from '@/ui/RuledTable.vue'

/** The parameters of a method and what it reports. */
const props = defineProps<{ method: Schemas['MethodPage'] }>()
const parameters = computed(() =>
  props.method.parameters.filter((parameter) => parameter.name !== 'rounding'),
)
</script>

<template>
  <section class="small-print">
    <div>
      <h2>{{ t('methods.parameters') }}</h2>
      <RuledTable>
        <tbody>
          <tr v-for="parameter in parameters" :key="parameter.name">
            <td>{{ fieldWords(parameter.name) }}</td>
            <td class="mono">
              {{ parameter.required ? t('methods.needed') : shown(parameter.default) }}
            </td>
            <td class="quiet small">{{ parameter.description }}</td>
          </tr>
        </tbody>
      </RuledTable>
    </div>
    <div>
      <h2>{{ t('methods.reported') }}</h2>
      <RuledTable>
        <tbody>
          <tr v-for="property in method.reported" :key="property.title">
            <td>{{ property.title }}</td>
            <td class="mono">{{ property.unit }}</td>
            <td class="quiet small">
              {{ property.statistic
              }}{{
                [t('methods.mean'), t('methods.median')].includes(property.statistic!)
                  ? `, ${property.rounded}`
                  : ''
              }}
            </td>
          </tr>
        </tbody>
      </RuledTable>
    </div>
  </section>
</template>

<style scoped>
h2 {
  margin: 18px 0 8px;
}

.small-print {
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) minmax(0, 1fr);
  gap: 40px;
  margin-top: 26px;
  border-top: 2px solid var(--ink);
}

@media (max-width: 1180px) {
  .small-print {
    grid-template-columns: minmax(0, 1fr);
    gap: 0;
  }
}
</style>
