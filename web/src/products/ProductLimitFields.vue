<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { MethodLine } from '@/api/client'
import LimitField from '@/jobs/LimitField.vue'
import { kindsFor } from '@/jobs/limits'
import GuardFields from '@/products/GuardFields.vue'
import type { LimitRow } from '@/products/products'
import ActButton from '@/ui/ActButton.vue'

/** One limit of a product: which property, which direction, the rule, and its guard. */
const props = defineProps<{ method: MethodLine }>()
const row = defineModel<LimitRow>({ required: true })
defineEmits<{ out: [] }>()
const properties = computed(() =>
  props.method.properties.map((each) => ({ value: each.name, title: each.title })),
)
const directions = computed(() => [
  ...props.method.directions.map((each) => ({ value: each, title: each })),
  { value: '', title: t('products.every-direction') },
])
const property = computed(() =>
  props.method.properties.find((each) => each.name === row.value.property),
)
function choose(name: string) {
  row.value.property = name
  const kinds = kindsFor(property.value?.statistic ?? 'mean', property.value?.unit ?? '')
  if (!kinds.includes(row.value.typed.kind)) row.value.typed.kind = kinds[0]!
}
const isFigure = computed(() => /^(mean|median|every) /.test(row.value.typed.kind))
const mayHaveLeast = computed(() => /^(mean|median) >=/.test(row.value.typed.kind))
</script>

<template>
  <div class="limit-row">
    <v-select
      v-if="properties.length > 1"
      density="compact"
      :model-value="row.property"
      :items="properties"
      :label="t('products.property')"
      @update:model-value="choose"
    />
    <v-select
      v-if="directions.length > 1"
      v-model="row.direction"
      density="compact"
      :items="directions"
      :label="t('products.direction')"
    />
    <LimitField
      v-model="row.typed"
      class="rule"
      :label="property?.title ?? ''"
      :statistic="property?.statistic ?? 'mean'"
      :unit="property?.unit ?? ''"
    />
    <div class="more">
      <v-text-field
        v-if="mayHaveLeast"
        v-model="row.typed.noneBelow"
        class="mono least"
        density="compact"
        :label="t('products.no-single-value-below')"
        suffix="%"
        inputmode="decimal"
      />
      <v-checkbox
        v-if="isFigure"
        v-model="row.isGuarded"
        density="compact"
        :label="t('products.guarded-by-the-expanded-uncertainty')"
      />
      <ActButton type="button" kind="plain" class="small" @click="$emit('out')">{{
        t('products.remove-limit')
      }}</ActButton>
    </div>
    <GuardFields v-if="isFigure && row.isGuarded" v-model="row" class="more" />
  </div>
</template>

<style scoped>
.limit-row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 10px;
  padding-top: 10px;
  border-top: 1px solid var(--hair);
}

.limit-row > .v-input {
  flex: 0 0 150px;
}

.rule {
  flex: 1 1 400px;
  min-width: 0;
}

.more {
  display: flex;
  flex-wrap: wrap;
  flex: 1 0 100%;
  gap: 4px 18px;
  align-items: center;
}

.more > button {
  margin-left: auto;
}

.least {
  flex: 0 0 260px;
}
</style>
