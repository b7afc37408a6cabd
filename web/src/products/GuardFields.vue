<script setup lang="ts">
import { t } from '@/ui/words'
import { newContribution, type LimitRow } from '@/products/products'
import ActButton from '@/ui/ActButton.vue'

/** What guards a limit: the coverage factor, and what comes to the spread of the specimens. */
const row = defineModel<LimitRow>({ required: true })
const KINDS = [
  { value: 'standard', title: t('products.standard-uncertainty') },
  { value: 'half_interval', title: t('products.half-interval') },
  { value: 'expanded', title: t('products.expanded-uncertainty') },
]
</script>

<template>
  <div>
    <v-text-field
      v-model="row.k"
      class="mono k"
      density="compact"
      :label="t('products.coverage-factor-k')"
      inputmode="decimal"
    />
    <div v-for="(part, place) in row.budget" :key="place" class="part">
      <v-text-field v-model="part.name" density="compact" :label="t('products.contribution')" />
      <v-text-field
        v-model="part.value"
        class="mono"
        density="compact"
        :label="t('products.value-it-belongs-to')"
        inputmode="decimal"
      />
      <v-select
        v-model="part.kind"
        density="compact"
        :items="KINDS"
        :label="t('products.given-as')"
      />
      <v-text-field
        v-model="part.amount"
        class="mono"
        density="compact"
        :label="t('products.uncertainty')"
        inputmode="decimal"
      />
      <v-text-field
        v-if="part.kind === 'expanded'"
        v-model="part.k"
        class="mono"
        density="compact"
        :label="t('products.its-k')"
        inputmode="decimal"
      />
      <ActButton type="button" kind="plain" class="small" @click="row.budget.splice(place, 1)">{{
        t('products.remove')
      }}</ActButton>
    </div>
    <ActButton type="button" kind="link" @click="row.budget.push(newContribution())">{{
      t('products.add-contribution')
    }}</ActButton>
  </div>
</template>

<style scoped>
.k {
  flex: 0 0 190px;
}

.part {
  display: grid;
  flex: 1 0 100%;
  grid-template-columns: repeat(auto-fit, minmax(130px, 1fr));
  gap: 8px;
  align-items: center;
}
</style>
