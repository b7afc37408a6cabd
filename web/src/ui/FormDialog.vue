<script setup lang="ts">
import { t } from '@/ui/words'
import ActButton from '@/ui/ActButton.vue'
import RefusalNote from '@/ui/RefusalNote.vue'

/** A dialog that is filled in and confirmed: title, fields, what the server refused, two buttons. */
const open = defineModel<boolean>({ required: true })
const refused = defineModel<string>('refused', { default: '' })
withDefaults(
  defineProps<{
    title: string
    action: string
    disabled?: boolean
    wide?: number
    cancel?: string
  }>(),
  { wide: 520, cancel: t('ui.cancel') },
)
const emit = defineEmits<{ confirm: [] }>()
</script>

<template>
  <v-dialog v-model="open" :max-width="wide">
    <form class="leaf" @submit.prevent="emit('confirm')">
      <h2>{{ title }}</h2>
      <slot />
      <RefusalNote v-model="refused" />
      <footer>
        <slot name="beside" />
        <ActButton type="button" @click="open = false">{{ cancel }}</ActButton>
        <ActButton kind="main" :disabled="disabled">{{ action }}</ActButton>
      </footer>
    </form>
  </v-dialog>
</template>
