<script setup lang="ts">
import { t } from '@/ui/words'
import { STATES, type ProductPage } from '@/products/products'
import ActButton from '@/ui/ActButton.vue'
import RuledTable from '@/ui/RuledTable.vue'
import { dayOf } from '@/ui/dates'

/** Every revision of a product: who wrote it, and who approved it. */
defineProps<{ page: ProductPage }>()
const emit = defineEmits<{ show: [id: number] }>()
</script>

<template>
  <section>
    <h3>{{ t('products.revisions') }}</h3>
    <RuledTable dense>
      <thead>
        <tr>
          <th>{{ t('products.revision-2') }}</th>
          <th>{{ t('products.state') }}</th>
          <th>{{ t('products.written') }}</th>
          <th>{{ t('products.approved') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="each in page.revisions" :key="each.id">
          <td>
            <b v-if="each.id === page.product.id" class="mono">{{ each.revision }}</b>
            <ActButton v-else kind="link" @click="emit('show', each.id)">{{
              t('products.revision', { revision: each.revision })
            }}</ActButton>
          </td>
          <td>{{ STATES[each.state] }}</td>
          <td>{{ each.by }}, {{ dayOf(each.at) }}</td>
          <td>
            <template v-if="each.approved_at"
              >{{ each.approved_by }}, {{ dayOf(each.approved_at) }}</template
            >
          </td>
        </tr>
      </tbody>
    </RuledTable>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 6px;
}
</style>
