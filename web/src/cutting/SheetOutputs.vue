<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ask, client } from '@/api/client'

/** Everything that leaves the cutting table: on paper, as a drawing, as labels. */
const props = defineProps<{ id: number }>()
const stocks = useQuery({
  queryKey: ['label-stocks'],
  queryFn: () => ask(client.GET('/api/label-stocks')),
  staleTime: Infinity,
})
const stock = ref('a4-24')
const skip = ref('0')
const perPage = computed(
  () => stocks.data.value?.find((known) => known.id === stock.value)?.per_page ?? 1,
)
const at = (name: string) => `/api/jobs/${props.id}/${name}`
const labels = computed(
  () => `${at('labels.pdf')}?stock=${stock.value}&skip=${Number.parseInt(skip.value) || 0}`,
)
</script>

<template>
  <dl class="outputs">
    <dt>{{ t('cutting.sheet-and-cutting-list') }}</dt>
    <dd>
      <a :href="at('sheet.pdf')" target="_blank">{{ t('cutting.pdf-to-scale') }}</a>
    </dd>
    <dt>{{ t('cutting.full-size-1-1') }}</dt>
    <dd>
      <a :href="`${at('sheet-full-size.pdf')}?paper=A4`" target="_blank">{{
        t('cutting.a4-tiles')
      }}</a>
      <a :href="`${at('sheet-full-size.pdf')}?paper=Letter`" target="_blank">{{
        t('cutting.letter-tiles')
      }}</a>
      <a :href="`${at('sheet-full-size.pdf')}?paper=one`" target="_blank">{{
        t('cutting.one-page')
      }}</a>
    </dd>
    <dt>{{ t('cutting.for-a-plotter-or-cutter') }}</dt>
    <dd>
      <a :href="at('sheet.svg')">{{ t('cutting.svg') }}</a>
      <a :href="at('sheet.dxf')">{{ t('cutting.dxf') }}</a>
    </dd>
    <dt>{{ t('cutting.labels') }}</dt>
    <dd class="labels">
      <v-select
        v-model="stock"
        density="compact"
        :label="t('cutting.sheet-of-labels')"
        :items="stocks.data.value ?? []"
        item-value="id"
        item-title="title"
      />
      <v-text-field
        v-model="skip"
        class="mono"
        density="compact"
        inputmode="numeric"
        :label="t('cutting.labels-already-used')"
        :suffix="t('cutting.of-2', { perPage })"
      />
      <a :href="labels" target="_blank">{{ t('cutting.pdf') }}</a>
    </dd>
  </dl>
</template>

<style scoped>
.outputs {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 2px 16px;
  align-items: baseline;
  margin: 0;
}

dt {
  color: var(--ink-2);
}

dd {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: center;
  min-height: 32px;
  margin: 0;
}

select,
input {
  min-height: 32px;
  padding: 0 6px;
  border: 1px solid var(--ink-3);
  border-radius: 5px;
  background: var(--page);
  color: var(--ink);
  font-size: 14px;
}

select {
  max-width: 100%;
}

label {
  font-size: 14px;
}
</style>
