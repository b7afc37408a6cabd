<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import PackFields from '@/jobs/PackFields.vue'
import ArrivedPicture from '@/jobs/ArrivedPicture.vue'
import { PIECE_KINDS, type TypedSample } from '@/jobs/typedSample'
import ActButton from '@/ui/ActButton.vue'
import { figureFrom } from '@/ui/numbers'

/** In which form a sample arrived, and how much of it: the counter asks only what that form needs. */
const props = defineProps<{ tried: boolean }>()
const sample = defineModel<TypedSample>('sample', { required: true })
const form = defineModel<Form>('form', { required: true })
type Form = Schemas['SampleRequest']['form']
/** What arrives is not always a roll: each form is asked for what it is. */
const FORMS: { value: Form; text: string }[] = [
  { value: 'sheet', text: t('jobs.sheet') },
  { value: 'pieces', text: t('jobs.pieces') },
  { value: 'granules', text: t('jobs.granules') },
  { value: 'packs', text: t('jobs.packs') },
]
const width = computed(() => figureFrom(sample.value.width_mm))
const length = computed(() => figureFrom(sample.value.length_mm))
const drawn = computed(() => {
  const scale = Math.min(300 / width.value, 300 / length.value)
  return Number.isFinite(scale) && scale > 0 ? [width.value * scale, length.value * scale] : null
})
const need = (value: string) => (props.tried && !value.trim() ? 'required' : undefined)
</script>

<template>
  <div class="what">
    <h2>{{ t('jobs.form') }}</h2>
    <div class="forms" role="radiogroup" :aria-label="t('jobs.form-of-the-sample')">
      <ActButton
        v-for="row in FORMS"
        :key="row.value"
        type="button"
        role="radio"
        :aria-checked="form === row.value"
        :class="{ on: form === row.value }"
        @click="form = row.value"
      >
        {{ row.text }}
      </ActButton>
    </div>
    <v-text-field
      v-if="form === 'granules'"
      v-model="sample.mass_g"
      class="mono"
      :label="t('jobs.amount')"
      suffix="g"
      inputmode="decimal"
      :error-messages="need(sample.mass_g)"
    />
    <v-text-field
      v-else-if="form !== 'sheet'"
      v-model="sample.count"
      class="mono"
      :label="t('jobs.how-many')"
      inputmode="numeric"
      :error-messages="need(sample.count)"
    />
    <div v-if="form === 'granules'" class="pair">
      <v-text-field v-model="sample.bag" :label="t('jobs.bag')" maxlength="60" />
      <v-text-field
        v-model="sample.regrind_percent"
        class="mono"
        :label="t('jobs.share-of-regrind')"
        suffix="%"
        inputmode="decimal"
      />
    </div>
    <v-select
      v-if="form === 'pieces'"
      :model-value="sample.piece_kind || null"
      :items="PIECE_KINDS"
      :label="t('jobs.kind')"
      clearable
      @update:model-value="sample.piece_kind = $event ?? ''"
    />
    <PackFields v-if="form === 'packs'" v-model="sample" />
    <ArrivedPicture v-else :form="form" :sample="sample" />
    <p v-if="form !== 'sheet'" class="quiet small">
      {{ t('jobs.ready-pieces-nothing-is-cut-they-are') }}
    </p>
    <div v-if="form === 'sheet'" class="pair">
      <v-text-field
        v-model="sample.width_mm"
        class="mono"
        :label="t('jobs.across-the-roll')"
        suffix="mm"
        inputmode="decimal"
      />
      <v-text-field
        v-model="sample.length_mm"
        class="mono"
        :label="t('jobs.along-the-roll')"
        suffix="mm"
        inputmode="decimal"
      />
    </div>
    <figure v-if="form === 'sheet' && drawn">
      <svg
        width="380"
        :height="drawn[1]! + 64"
        :viewBox="`-50 -20 380 ${drawn[1]! + 64}`"
        aria-hidden="true"
      >
        <rect :width="drawn[0]" :height="drawn[1]" class="cloth" />
        <path :d="`M0 ${drawn[1]! + 12}h${drawn[0]}`" class="measure" />
        <text :x="drawn[0]! / 2" :y="drawn[1]! + 30" text-anchor="middle">
          {{ t('jobs.mm-weft', { width_mm: sample.width_mm }) }}
        </text>
        <path :d="`M-12 0v${drawn[1]}`" class="measure" />
        <text
          :transform="`rotate(-90 -22 ${drawn[1]! / 2}) translate(-22 ${drawn[1]! / 2})`"
          text-anchor="middle"
        >
          {{ t('jobs.mm-warp', { length_mm: sample.length_mm }) }}
        </text>
      </svg>
    </figure>
  </div>
</template>

<style scoped>
.what {
  display: grid;
  gap: 14px;
}

h2 {
  margin-top: 12px;
}

.forms {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 6px;
}

.forms .on {
  color: var(--ground);
  background: var(--ink);
}

figure {
  margin: 0;
}

.cloth {
  fill: var(--sunk);
  stroke: var(--ink);
  stroke-width: 1.5;
}

figure svg {
  max-width: 100%;
}

.measure {
  stroke: var(--ink-2);
}

text {
  fill: var(--ink-2);
  font: 14px var(--mono);
}

.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
}
</style>
