<script setup lang="ts">
import { t } from '@/ui/words'
import { ref } from 'vue'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import type { Block } from '@/today/today'
import RefusalNote from '@/ui/RefusalNote.vue'
import ActButton from '@/ui/ActButton.vue'
import DateField from '@/ui/DateField.vue'

/** A step is pinned to a moment, by whom it was planned for, or let go again. */
const props = defineProps<{ block: Block; start: string }>()
const emit = defineEmits<{ pinned: [] }>()
const { act, refused, busy } = useAct()
const at = ref<string | null>(props.start)

async function pin() {
  const body = {
    test_id: props.block.test_id!,
    step: props.block.step,
    start: at.value!,
    person: props.block.person,
  }
  if (await act(() => ask(client.POST('/api/schedule/pin', { body })))) emit('pinned')
}
async function unpin() {
  const body = { test_id: props.block.test_id!, step: props.block.step }
  if (await act(() => ask(client.POST('/api/schedule/unpin', { body })))) emit('pinned')
}
</script>

<template>
  <form class="pin small" @submit.prevent="pin">
    <DateField v-model="at" with-time :label="t('today.pinned-to')" />
    <ActButton kind="link" :disabled="busy || !at">{{ t('today.pin-to-this-time') }}</ActButton>
    <ActButton v-if="block.pinned" type="button" kind="link" :disabled="busy" @click="unpin">
      {{ t('today.unpin') }}
    </ActButton>
    <RefusalNote v-model="refused" />
  </form>
</template>

<style scoped>
.pin {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
}

input {
  width: 186px;
  min-height: 34px;
  padding: 0 8px;
  border: 1px solid var(--hair);
  border-radius: 6px;
  background: var(--page);
  color: var(--ink);
  font: inherit;
}
</style>
