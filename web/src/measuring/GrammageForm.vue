<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import ActButton from '@/ui/ActButton.vue'
import { figureFrom } from '@/ui/numbers'

/** Pieces of a known size are weighed; their mass by their area is the grammage. */
defineProps<{ view: Schemas['MeasuringView']; balanced: boolean; busy: boolean }>()
defineEmits<{ weighed: [masses_g: number[]]; read: [] }>()
const masses = defineModel<string>({ required: true })
const grams = () =>
  masses.value
    .split(/[;\s]+/)
    .filter(Boolean)
    .map(figureFrom)
</script>

<template>
  <form class="grammage" @submit.prevent="$emit('weighed', grams())">
    <h2>{{ t('measuring.grammage') }}</h2>
    <p class="quiet">
      {{ t('measuring.masses-of-pieces-of-separated-by-spaces', { blank_text: view.blank_text }) }}
      <i18n-t v-if="view.grammage_g_m2" keypath="measuring.now" scope="global"
        ><template #grammage
          ><b class="mono">{{ view.grammage_g_m2 }} g/m²</b></template
        ></i18n-t
      >
    </p>
    <div class="row">
      <v-text-field
        v-model="masses"
        class="mono"
        :label="t('measuring.masses')"
        suffix="g"
        inputmode="decimal"
      />
      <ActButton v-if="balanced" type="button" :disabled="busy" @click="$emit('read')">
        {{ t('measuring.read-the-balance') }}
      </ActButton>
      <ActButton :disabled="busy || !masses.trim()">{{ t('measuring.save-grammage') }}</ActButton>
    </div>
  </form>
</template>

<style scoped>
.grammage {
  display: grid;
  gap: 8px;
  margin-top: 26px;
  padding-top: 16px;
  border-top: 1.5px solid var(--ink);
}

.grammage input {
  min-width: 280px;
  min-height: 44px;
  padding: 0 10px;
  border: 1.5px solid var(--ink-3);
  border-radius: 7px;
  background: var(--page);
  color: var(--ink);
}
</style>
