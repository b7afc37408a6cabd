<script setup lang="ts">
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
    <h2>Grammage</h2>
    <p class="quiet">
      Masses of pieces of {{ view.blank_text }}, separated by spaces. Grammage is the mean mass over
      the area.
      <template v-if="view.grammage_g_m2">
        Now <b class="mono">{{ view.grammage_g_m2 }} g/m²</b>.
      </template>
    </p>
    <div class="row">
      <v-text-field v-model="masses" class="mono" label="Masses" suffix="g" inputmode="decimal" />
      <ActButton v-if="balanced" type="button" :disabled="busy" @click="$emit('read')">
        Read the balance
      </ActButton>
      <ActButton :disabled="busy || !masses.trim()">Save grammage</ActButton>
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
