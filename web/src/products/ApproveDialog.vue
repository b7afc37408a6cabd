<script setup lang="ts">
import { t } from '@/ui/words'
import { ref, watch } from 'vue'
import type { ProductPage } from '@/products/products'
import DateField from '@/ui/DateField.vue'
import FormDialog from '@/ui/FormDialog.vue'

/** A second person puts a draft in force, now or from a day on. */
defineProps<{ page: ProductPage }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ approve: [validFrom: string | null] }>()
const from = ref<string | null>('')
watch(open, () => (from.value = ''))
function give() {
  emit('approve', from.value || null)
  open.value = false
}
</script>

<template>
  <FormDialog
    v-model="open"
    :title="t('products.approve-of', { name: page.product.name, revision: page.product.revision })"
    :action="t('products.approve')"
    :disabled="from === null"
    @confirm="give"
  >
    <p>{{ t('products.lots-received-from-then-on') }}</p>
    <DateField v-model="from" with-time :label="t('products.in-force-from-optional')" />
  </FormDialog>
</template>
