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
  <article>
    <h2>{{ t('products.products-table') }}</h2>
    <p class="quiet">{{ t('products.one-row-a-limit') }}</p>
    <p>
      {{ t('products.export') }} <a href="/api/products.csv">{{ t('products.csv') }}</a>
      {{ t('products.or') }} <a href="/api/products.xlsx">{{ t('products.xlsx') }}</a>,
      <FileButton
        kind="link"
        :label="t('products.specifications-file')"
        accept=".csv,.xlsx"
        :disabled="busy"
        @chosen="look"
        >{{ t('products.import-table') }}</FileButton
      >
    </p>
    <section v-if="preview" :aria-label="t('products.preview-of-the-table')">
      <h3>{{ t('products.preview-of', { file: file?.name }) }}</h3>
      <template v-if="preview.refusals.length">
        <p class="small bad">{{ counted('products.cells-to-correct', preview.refusals.length) }}</p>
        <ul class="small" role="alert">
          <li v-for="line in preview.refusals" :key="line">{{ line }}</li>
        </ul>
      </template>
      <div v-for="change in changed" :key="`${change.client} ${change.name}`" class="small">
        <p>
          <b>{{ change.name }}</b> <span class="quiet">{{ change.client }}</span>
          {{
            change.kind === 'new'
              ? t('products.new-product')
              : t('products.becomes-revision', { revision: change.revision + 1 })
          }}
        </p>
        <ul v-if="change.kind === 'changed'">
          <li v-for="line in change.differences" :key="line">{{ line }}</li>
        </ul>
      </div>
      <p v-if="unchanged" class="small quiet">
        {{ counted('products.products-unchanged', unchanged) }}
      </p>
      <p class="acts">
        <ActButton
          type="button"
          :disabled="busy || preview.refusals.length > 0 || !changed.length"
          @click="bringIn"
          >{{ t('products.import-products') }}</ActButton
        >
        <ActButton type="button" kind="link" @click="discard">{{
          t('products.discard-table')
        }}</ActButton>
      </p>
    </section>
    <p v-if="taken" class="quiet" role="status">{{ t('products.imported', { taken }) }}</p>
    <RefusalNote v-model="refused" />
  </article>
</template>

<style scoped>
article {
  display: grid;
  gap: 10px;
  align-content: start;
  justify-items: start;
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
