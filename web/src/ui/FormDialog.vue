<script setup lang="ts">
import { t } from '@/ui/words'
import { watch } from 'vue'
import ActButton from '@/ui/ActButton.vue'
import DraftNote from '@/ui/DraftNote.vue'
import type { Draft } from '@/ui/drafts'
import RefusalNote from '@/ui/RefusalNote.vue'

/** A dialog that is filled in and confirmed: title, fields, what the server refused, two buttons. */
const open = defineModel<boolean>({ required: true })
const refused = defineModel<string>('refused', { default: '' })
const props = withDefaults(
  defineProps<{
    title: string
    action: string
    disabled?: boolean
    wide?: number
    cancel?: string
    /** What is typed here is kept until it is saved or the dialog is cancelled. */
    draft?: Draft
  }>(),
  { wide: 520, cancel: t('ui.cancel'), draft: undefined },
)
const emit = defineEmits<{ confirm: [] }>()
// A dialog is filled in as it opens, before its draft begins. It is left as it is while it closes.
watch(open, (isOpen) => isOpen && props.draft?.begin(), { flush: 'post', immediate: true })
watch(open, (isOpen) => !isOpen && props.draft?.end(), { flush: 'sync' })
function leave() {
  props.draft?.discard()
  open.value = false
}
</script>

<template>
  <v-dialog v-model="open" :max-width="wide">
    <form class="leaf" @submit.prevent="emit('confirm')">
      <h2>{{ title }}</h2>
      <DraftNote v-if="draft" :draft="draft" />
      <slot />
      <RefusalNote v-model="refused" />
      <footer>
        <slot name="beside" />
        <ActButton type="button" @click="leave">{{ cancel }}</ActButton>
        <ActButton kind="main" :disabled="disabled">{{ action }}</ActButton>
      </footer>
    </form>
  </v-dialog>
</template>
