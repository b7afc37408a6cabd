<script setup lang="ts">
import { counted, t } from '@/ui/words'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { upload } from '@/api/upload'
import ActButton from '@/ui/ActButton.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import FileButton from '@/ui/FileButton.vue'

/** Products with their specifications go out as a table, and come in again after a preview. */
const { act, refused, busy } = useAct()
const file = ref<File | null>(null)
const preview = ref<Schemas['ProductsPreview'] | null>(null)
const taken = ref('')
const changed = computed(
  () => preview.value?.changes.filter((change) => change.kind !== 'unchanged') ?? [],
)
const unchanged = computed(() => (preview.value?.changes.length ?? 0) - changed.value.length)

async function look(files: File[]) {
  file.value = files[0]!
  preview.value = null
  taken.value = ''
  await act(async () => {
    preview.value = await upload<Schemas['ProductsPreview']>('/api/products/preview', {
      file: file.value!,
    })
  })
}
async function bringIn() {
  if (!(await act(() => upload('/api/products/import', { file: file.value! })))) return
  taken.value = file.value!.name
  discard()
}
function discard() {
  file.value = null
  preview.value = null
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
        @chosen="look"
        >{{ t('jobs.import-table') }}</FileButton
      >
    </p>
    <section v-if="preview" :aria-label="t('jobs.preview-of-the-table')">
      <h3>{{ t('jobs.preview-of', { file: file?.name }) }}</h3>
      <template v-if="preview.refusals.length">
        <p class="small bad">{{ counted('jobs.cells-to-correct', preview.refusals.length) }}</p>
        <ul class="small" role="alert">
          <li v-for="line in preview.refusals" :key="line">{{ line }}</li>
        </ul>
      </template>
      <div v-for="change in changed" :key="`${change.client} ${change.name}`" class="small">
        <p>
          <b>{{ change.name }}</b> <span class="quiet">{{ change.client }}</span>
          {{
            change.kind === 'new'
              ? t('jobs.new-product')
              : t('jobs.becomes-revision', { revision: change.revision + 1 })
          }}
        </p>
        <ul v-if="change.kind === 'changed'">
          <li v-for="line in change.differences" :key="line">{{ line }}</li>
        </ul>
      </div>
      <p v-if="unchanged" class="small quiet">
        {{ counted('jobs.products-unchanged', unchanged) }}
      </p>
      <p class="acts">
        <ActButton
          type="button"
          :disabled="busy || preview.refusals.length > 0 || !changed.length"
          @click="bringIn"
          >{{ t('jobs.import-products') }}</ActButton
        >
        <ActButton type="button" kind="link" @click="discard">{{
          t('jobs.discard-table')
        }}</ActButton>
      </p>
    </section>
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

section {
  display: grid;
  gap: 8px;
  padding: 10px 0;
}

ul {
  margin: 4px 0 0;
  padding-left: 18px;
}

.bad {
  color: var(--brick);
}

.acts {
  display: flex;
  gap: 12px;
  align-items: center;
}
</style>
