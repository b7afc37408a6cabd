<script setup lang="ts">
import { computed } from 'vue'
import { newStage, type StageTyped } from '@/measuring/stages'
import ActButton from '@/ui/ActButton.vue'
import { t } from '@/ui/words'

/** Stages of conditioning that are set for a test in place of those of its method. */
const stages = defineModel<StageTyped[]>({ required: true })
const props = defineProps<{ atmospheres: Record<string, string> }>()
defineEmits<{ usual: [] }>()
const choices = computed(() =>
  Object.entries(props.atmospheres).map(([value, title]) => ({ value, title })),
)
</script>

<template>
  <div v-for="(stage, index) in stages" :key="index" class="stage">
    <v-select
      v-model="stage.atmosphere"
      :items="choices"
      :label="t('measuring.stage', { place: index + 1 })"
    />
    <v-text-field
      v-model="stage.least"
      class="mono"
      :label="t('measuring.at-least')"
      suffix="min"
    />
    <v-text-field
      v-model="stage.wait"
      class="mono"
      :label="t('measuring.next-step-within')"
      suffix="min"
    />
    <ActButton type="button" kind="link" @click="stages.splice(index, 1)">{{
      t('measuring.remove')
    }}</ActButton>
  </div>
  <div class="row">
    <ActButton type="button" @click="stages.push(newStage())">{{
      t('measuring.add-stage')
    }}</ActButton>
    <ActButton type="button" kind="link" @click="$emit('usual')">
      {{ t('measuring.use-the-stages-of-the-method') }}
    </ActButton>
  </div>
  <p class="quiet small">{{ t('measuring.other-stages-than-those-of-the-method') }}</p>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-columns: 1.5fr 1fr 1fr auto;
  gap: 10px;
  align-items: start;
}
</style>
