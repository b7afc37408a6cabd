<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { OWN_SIZE, type TypedVariant } from '@/jobs/variants'
import type { Wanted } from '@/jobs/wanted'

/** Several samples in one go: colours, print orientations, suppliers, positions. */
const props = defineProps<{ form: Schemas['SampleRequest']['form']; wanted: Wanted[] }>()
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
const title = (test: Wanted) => `${test.method.title}`
void props
</script>

<template>
  <p v-if="!variants.length">
    <button type="button" class="plain link" @click="begin">
      Several samples: lots, colours, orientations …
    </button>
  </p>
  <fieldset v-else>
    <legend>Several samples</legend>
    <table>
      <thead>
        <tr>
          <th>Sample name</th>
          <th>Lot (if different)</th>
          <th>{{ OWN_SIZE[form].words }}</th>
          <th v-for="(test, place) in wanted" :key="test.key" class="tick" :title="title(test)">
            {{ letter(place) }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(variant, place) in variants" :key="variant.key">
          <td>
            <input
              v-model="variant.name"
              :aria-label="`Sample ${place + 1}`"
              maxlength="80"
              @input="typed"
            />
          </td>
          <td>
            <input v-model="variant.lot" :aria-label="`Lot of sample ${place + 1}`" list="lots" />
          </td>
          <td>
            <input
              v-model="variant.size"
              class="mono short"
              inputmode="decimal"
              :aria-label="`Size of sample ${place + 1}`"
            />
          </td>
          <td v-for="test in wanted" :key="test.key" class="tick">
            <input
              type="checkbox"
              :checked="!variant.without.includes(test.key)"
              :aria-label="`${title(test)} on sample ${place + 1}`"
              @change="toggle(variant, test.key)"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <p class="small quiet">
      <template v-for="(test, place) in wanted" :key="test.key"
        ><b class="mono">{{ letter(place) }}</b> {{ title(test) }}.
      </template>
      All samples have the same limits. Empty lines are ignored.
    </p>
    <p class="reports small">
      <label><input v-model="reports" type="radio" value="each" /> one report each</label>
      <label><input v-model="reports" type="radio" value="one" /> one study report</label>
      <button type="button" class="plain link" @click="variants = []">single sample</button>
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

table {
  width: 100%;
  border-spacing: 0 4px;
}

th {
  color: var(--ink-2);
  font-size: 13px;
  font-weight: 400;
  text-align: left;
}

.tick {
  width: 34px;
  text-align: center;
}

td input:not([type='checkbox']) {
  width: calc(100% - 8px);
  min-height: 40px;
  padding: 0 9px;
  border: 1px solid var(--hair);
  border-radius: 6px;
  background: var(--page);
  color: var(--ink);
  font: inherit;
}

.short {
  max-width: 110px;
}

td input[type='checkbox'] {
  width: 20px;
  height: 20px;
}

.reports {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 20px;
  align-items: center;
}
</style>
