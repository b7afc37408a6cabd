<script setup lang="ts">
import { t } from '@/ui/words'
import type { BenchView } from '@/bench/bench'
import ActButton from '@/ui/ActButton.vue'

/** The last thing that was done by hand, and the way back from it. */
defineProps<{ view: BenchView | null; busy: boolean }>()
defineEmits<{ takeBack: [number: number] }>()
</script>

<template>
  <p v-if="view?.undo" class="small quiet">
    {{ t('bench.last', { title: view.undo.title }) }}
    <ActButton kind="link" :disabled="busy" @click="$emit('takeBack', view.undo.number)">
      {{ t('bench.undo') }}
    </ActButton>
  </p>
</template>

<style scoped>
.link {
  min-height: 24px;
  margin-left: 6px;
  text-decoration: underline;
}
</style>
