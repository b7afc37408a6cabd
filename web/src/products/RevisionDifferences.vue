<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ask, client } from '@/api/client'
import { STATES, type ProductPage } from '@/products/products'
import FromRecord from '@/ui/FromRecord.vue'

/** What differs between the revision shown and another of its product. */
const props = defineProps<{ page: ProductPage }>()
const others = computed(() =>
  props.page.revisions
    .filter((each) => each.id !== props.page.product.id)
    .map((each) => ({
      value: each.id,
      title: t('products.revision-state', {
        revision: each.revision,
        state: STATES[each.state],
      }),
    })),
)
/** A draft is held against the revision in force, any other against the one before it. */
const usual = computed(() => {
  const { revisions, product } = props.page
  const inForce = revisions.find((each) => each.state === 'in-force' && each.id !== product.id)
  const before = revisions.find((each) => each.revision < product.revision)
  return (props.page.state === 'draft' ? inForce : before) ?? before ?? null
})
const picked = ref<number | null>(null)
const against = computed(() => picked.value ?? usual.value?.id ?? null)
const differences = useQuery({
  queryKey: ['product-differences', computed(() => props.page.product.id), against],
  queryFn: () =>
    ask(
      client.GET('/api/products/{product_id}/differences', {
        params: { path: { product_id: props.page.product.id }, query: { before: against.value! } },
      }),
    ),
  enabled: computed(() => against.value !== null),
})
</script>

<template>
  <section v-if="others.length">
    <h3>{{ t('products.differences') }}</h3>
    <v-select
      class="against"
      density="compact"
      :model-value="against"
      :items="others"
      :label="t('products.compare-with')"
      @update:model-value="picked = $event"
    />
    <FromRecord v-if="!differences.data.value" inline :query="differences" />
    <p v-else-if="!differences.data.value.length" class="small quiet">
      {{ t('products.nothing-differs') }}
    </p>
    <ul v-else>
      <li v-for="line in differences.data.value" :key="line">{{ line }}</li>
    </ul>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
  justify-items: start;
}

.against {
  min-width: 280px;
}

ul {
  margin: 0;
  padding-left: 18px;
}
</style>
