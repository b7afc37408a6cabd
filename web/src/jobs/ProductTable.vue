<script setup lang="ts">
import { t } from '@/ui/words'
import { ref } from 'vue'
import { useAct } from '@/api/queries'
import { upload } from '@/api/upload'
import RefusalNote from '@/ui/RefusalNote.vue'
import FileButton from '@/ui/FileButton.vue'

/** Products with their specifications go out as a table, and come in again. */
const { act, refused, busy } = useAct()
const taken = ref('')
async function bringIn(files: File[]) {
  const file = files[0]!
  if (await act(() => upload('/api/products/import', { file }))) taken.value = file.name
}
</script>

<template>
  <details>
    <summary class="small">{{ t('jobs.products-table') }}</summary>
    <p class="small">
      {{ t('jobs.export') }} <a href="/api/products.csv">{{ t('jobs.csv') }}</a> {{ t('jobs.or') }}
      <a href="/api/products.xlsx">{{ t('jobs.xlsx') }}</a>,
      <FileButton
        kind="link"
        :label="t('jobs.specifications-file')"
        accept=".csv,.xlsx"
        :disabled="busy"
        @chosen="bringIn"
        >{{ t('jobs.import-table') }}</FileButton
      >
    </p>
    <p v-if="taken" class="small quiet" role="status">{{ t('jobs.imported', { taken }) }}</p>
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
