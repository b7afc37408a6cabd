<script setup lang="ts">
import { t } from '@/ui/words'
import type { PlacedSpecimen } from '@/api/client'
import ActButton from '@/ui/ActButton.vue'

/** The specimen that is picked on the sheet: how it lies, and what can be done with it. */
defineProps<{ specimen: PlacedSpecimen; open: boolean; busy: boolean }>()
defineEmits<{ lock: []; turn: [] }>()
</script>

<template>
  <div class="chosen">
    <strong class="mono">{{ specimen.name }}</strong>
    <span v-if="specimen.part">{{ specimen.part }}</span>
    <span v-if="specimen.disc">{{ specimen.test }}</span>
    <span v-else
      >{{ t('cutting.long-side-along-the') }} <b>{{ specimen.lies }}</b></span
    >
    <span
      ><b>{{ specimen.works_on }}</b></span
    >
    <span v-if="specimen.halves.length" class="quiet">{{
      t('cutting.sewn-then-parted', { halves: specimen.halves.join(t('cutting.and')) })
    }}</span>
    <span v-if="specimen.hot_knife" class="caution">{{ t('cutting.cut-with-a-hot-knife') }}</span>
    <div v-if="open && specimen.x_mm !== null" class="hands">
      <ActButton :disabled="busy" @click="$emit('lock')">
        {{ specimen.locked ? t('cutting.unlock') : t('cutting.lock') }} <kbd>L</kbd>
      </ActButton>
      <ActButton
        v-if="specimen.turnable"
        :disabled="busy || specimen.locked"
        @click="$emit('turn')"
      >
        {{ t('cutting.turn') }} <kbd>R</kbd>
      </ActButton>
      <span v-if="!specimen.locked" class="quiet small">{{
        t('cutting.drag-or-use-the-arrow-keys')
      }}</span>
    </div>
  </div>
</template>

<style scoped>
.chosen {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 0 14px;
  padding: 10px 14px;
  border: 1.5px dashed var(--blue);
}

.chosen strong {
  grid-row: 1 / span 4;
  font-size: 30px;
  line-height: 1.1;
}

.chosen > span {
  grid-column: 2;
}

.hands {
  display: flex;
  grid-column: 1 / -1;
  gap: 8px;
  align-items: center;
  margin-top: 8px;
}

.caution {
  grid-column: 1 / -1;
  color: var(--brick);
  font-weight: 600;
}
</style>
