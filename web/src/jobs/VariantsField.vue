<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import { OWN_SIZE, type TypedVariant } from '@/jobs/variants'
import type { Requested } from '@/jobs/requested'
import ActButton from '@/ui/ActButton.vue'
import RuledTable from '@/ui/RuledTable.vue'

/** Several samples in one go: colours, print orientations, suppliers, positions. */
const props = defineProps<{ form: Schemas['SampleRequest']['form']; requested: Requested[] }>()
const variants = defineModel<TypedVariant[]>('variants', { required: true })
const reports = defineModel<'one' | 'each'>('reports', { required: true })
let keys = 0
const blank = () => ({ key: (keys += 1), name: '', lot: '', size: '', without: [] })

/** There is always an empty line below the last one that says something. */
function typed() {
  if (variants.value.at(-1)?.name.trim()) variants.value.push(blank())
}
function begin() {
  variants.value = [blank(), blank()]
}
function toggle(variant: TypedVariant, key: number) {
  variant.without = variant.without.includes(key)
    ? variant.without.filter((each) => each !== key)
    : [...variant.without, key]
}
const letter = (place: number) => String.fromCharCode(65 + place)
const title = (test: Requested) => `${test.method.title}`
void props
</script>

<template>
  <p v-if="!variants.length">
    <ActButton type="button" kind="link" @click="begin">
      {{ t('jobs.several-samples-lots-colours') }}
    </ActButton>
  </p>
  <fieldset v-else>
    <legend>{{ t('jobs.several-samples') }}</legend>
    <RuledTable dense>
      <thead>
        <tr>
          <th>{{ t('jobs.sample-name') }}</th>
          <th>{{ t('jobs.lot-if-different') }}</th>
          <th>{{ OWN_SIZE[form].text }}</th>
          <th v-for="(test, place) in requested" :key="test.key" class="tick" :title="title(test)">
            {{ letter(place) }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(variant, place) in variants" :key="variant.key">
          <td>
            <v-text-field
              v-model="variant.name"
              density="compact"
              single-line
              :aria-label="t('jobs.sample-2', { place: place + 1 })"
              maxlength="80"
              @update:model-value="typed"
            />
          </td>
          <td>
            <v-text-field
              v-model="variant.lot"
              density="compact"
              single-line
              :aria-label="t('jobs.lot-of-sample', { place: place + 1 })"
              list="lots"
            />
          </td>
          <td>
            <v-text-field
              v-model="variant.size"
              class="mono"
              density="compact"
              single-line
              inputmode="decimal"
              :aria-label="t('jobs.size-of-sample', { place: place + 1 })"
            />
          </td>
          <td v-for="test in requested" :key="test.key" class="tick">
            <v-checkbox
              :model-value="!variant.without.includes(test.key)"
              :aria-label="t('jobs.on-sample', { test: title(test), place: place + 1 })"
              @update:model-value="toggle(variant, test.key)"
            />
          </td>
        </tr>
      </tbody>
    </RuledTable>
    <p class="small quiet">
      <template v-for="(test, place) in requested" :key="test.key"
        ><b class="mono">{{ letter(place) }}</b> {{ title(test) }}.
      </template>
      {{ t('jobs.all-samples-have-the-same-limits-empty') }}
    </p>
    <p class="reports small">
      <v-radio-group v-model="reports" inline>
        <v-radio value="each" :label="t('jobs.one-report-each')" />
        <v-radio value="one" :label="t('jobs.one-study-report')" />
      </v-radio-group>
      <ActButton type="button" kind="link" @click="variants = []">{{
        t('jobs.single-sample')
      }}</ActButton>
    </p>
  </fieldset>
</template>

<style scoped>
fieldset {
  display: grid;
  gap: 8px;
  min-width: 0;
  padding: 10px 0 0;
  border: 0;
  border-top: 1px solid var(--hair);
}

legend {
  padding-right: 10px;
  font-weight: 700;
}

.tick {
  width: 34px;
  text-align: center;
}

.reports {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 20px;
  align-items: center;
}
</style>
