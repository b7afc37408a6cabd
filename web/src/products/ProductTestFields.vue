<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import { useMethodFields } from '@/jobs/methodFields'
import SchemaField from '@/jobs/SchemaField.vue'
import StageFields from '@/measuring/StageFields.vue'
import StateField from '@/measuring/StateField.vue'
import { typedStages } from '@/measuring/stages'
import ProductLimitFields from '@/products/ProductLimitFields.vue'
import { newLimit, type TestRow } from '@/products/products'
import ActButton from '@/ui/ActButton.vue'

/** One test of a product: count and parameters as the method asks for them, and its limits. */
const row = defineModel<TestRow>({ required: true })
defineEmits<{ out: [] }>()
const { page: method, schema, usually } = useMethodFields(row.value.method)
const has = (name: string) => schema.value.properties?.[name] !== undefined
const needed = computed(() => row.value.method.needed.filter(has))
const isConditionedOtherwise = computed(
  () => row.value.state !== 'original' || row.value.stages !== null,
)
const optional = computed(() => row.value.method.optional.filter(has))
</script>

<template>
  <section :aria-label="row.method.title">
    <header>
      <strong>{{ row.method.title }}</strong>
      <span class="mono small">{{ row.method.id }}</span>
      <span class="small quiet">{{ method.data.value?.atmosphere }}</span>
      <ActButton type="button" kind="plain" class="small" @click="$emit('out')">{{
        t('products.remove-test')
      }}</ActButton>
    </header>
    <div v-if="needed.length" class="fields">
      <SchemaField
        v-for="name in needed"
        :key="name"
        v-model="row.parameters[name]"
        :name="name"
        :schema="schema.properties![name]!"
        :root="schema"
        required
      />
    </div>
    <details v-if="optional.length" :open="optional.some((name) => name in row.parameters)">
      <summary class="small">{{ t('products.count-and-other-parameters') }}</summary>
      <div class="fields more">
        <SchemaField
          v-for="name in optional"
          :key="name"
          v-model="row.parameters[name]"
          :name="name"
          :schema="usually(name)"
          :root="schema"
          is-usual
        />
      </div>
    </details>
    <details :open="isConditionedOtherwise">
      <summary class="small">{{ t('products.conditioning') }}</summary>
      <div class="more stages">
        <StateField v-model="row.state" />
        <StageFields
          v-if="row.stages"
          v-model="row.stages"
          :atmospheres="method.data.value?.atmospheres ?? {}"
          @usual="row.stages = null"
        />
        <p v-else class="quiet small">
          {{ t('products.conditioned-as-the-method-asks') }}
          <ActButton
            type="button"
            kind="link"
            @click="row.stages = typedStages(method.data.value?.stages ?? [])"
            >{{ t('measuring.change-stages') }}</ActButton
          >
        </p>
      </div>
    </details>
    <ProductLimitFields
      v-for="(limit, place) in row.limits"
      :key="limit.key"
      v-model="row.limits[place]!"
      :method="row.method"
      @out="row.limits.splice(place, 1)"
    />
    <ActButton
      v-if="row.method.properties.length"
      type="button"
      kind="link"
      @click="row.limits.push(newLimit(row.method))"
      >{{ t('products.add-limit') }}</ActButton
    >
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 10px;
  justify-items: start;
  padding: 10px 14px 14px;
  border: 1.5px solid var(--ink-3);
  border-radius: 7px;
}

section > * {
  width: 100%;
}

section > button {
  width: auto;
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
}

header button {
  margin-left: auto;
}

.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(260px, 1fr));
  gap: 12px 16px;
}

.stages {
  display: grid;
  gap: 10px;
}

.more {
  margin-top: 10px;
}

summary {
  min-height: 28px;
  color: var(--ink-2);
  cursor: pointer;
}
</style>
