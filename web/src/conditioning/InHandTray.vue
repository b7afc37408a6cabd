<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { InHand } from '@/conditioning/inHand'
import ActButton from '@/ui/ActButton.vue'

/** What is in hand, and what can be done with it. */
const props = defineProps<{
  inHand: InHand[]
  text: string
  room: Schemas['EnclosureView'] | null
  busy: boolean
}>()
defineEmits<{ place: [ids: number[]]; out: [ids: number[]]; putDown: [] }>()
const ids = computed(() => props.inHand.map((specimen) => specimen.id))
</script>

<template>
  <div class="tray">
    <p v-if="text" role="alert" class="bad">{{ text }}</p>
    <template v-if="inHand.length">
      <p>
        <b>{{ t('conditioning.scanned', { inHand: inHand.length }) }}</b>
        <span class="mono">{{ inHand.map((specimen) => specimen.code).join(', ') }}</span>
        <ActButton kind="link" @click="$emit('putDown')">{{
          t('conditioning.clear-scan')
        }}</ActButton>
      </p>
      <div class="row">
        <ActButton v-if="room" kind="main" :disabled="busy" @click="$emit('place', ids)">
          {{ t('conditioning.place-in', { inHand: inHand.length, name: room.name }) }}
        </ActButton>
        <ActButton :disabled="busy" @click="$emit('out', ids)">
          {{ t('conditioning.take-out', { inHand: inHand.length }) }}
        </ActButton>
      </div>
    </template>
  </div>
</template>

<style scoped>
.tray {
  display: grid;
  gap: 8px;
  margin-bottom: 12px;
  padding: 12px 16px;
  border: 1.5px dashed var(--blue);
}
</style>
