<script setup lang="ts">
import { ref } from 'vue'
import { useAct } from '@/api/queries'
import { upload } from '@/api/upload'
import RefusalNote from '@/ui/RefusalNote.vue'

/** Products with their specifications go out as a table, and come in again. */
const { act, refused, busy } = useAct()
const field = ref<HTMLInputElement | null>(null)
const taken = ref('')
async function chosen() {
  const file = field.value?.files?.[0]
  if (!field.value || !file) return
  if (await act(() => upload('/api/products/import', { file }))) taken.value = file.name
  field.value.value = ''
}
</script>

<template>
  <details>
    <summary class="small">Products table</summary>
    <p class="small">
      Export <a href="/api/products.csv">CSV</a> or <a href="/api/products.xlsx">XLSX</a>, import:
      <input
        ref="field"
        type="file"
        accept=".csv,.xlsx"
        aria-label="Specifications file"
        :disabled="busy"
        @change="chosen"
      />
    </p>
    <p v-if="taken" class="small quiet" role="status">{{ taken }} imported.</p>
    <RefusalNote v-model="refused" />
  </details>
</template>

<style scoped>
summary {
  min-height: 28px;
  color: var(--ink-2);
  cursor: pointer;
}
</style>
