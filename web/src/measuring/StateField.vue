<script setup lang="ts">
import { t } from '@/ui/words'

/** Whether the specimens of a test are tested as they came, or wet. */
const state = defineModel<'original' | 'wet'>({ required: true })
</script>

<template>
  <v-radio-group v-model="state" inline :aria-label="t('measuring.state-of-the-specimens')">
    <v-radio value="original" :label="t('measuring.as-received')" />
    <v-radio value="wet" :label="t('measuring.wet-from-the-water-bath')" />
  </v-radio-group>
</template>
