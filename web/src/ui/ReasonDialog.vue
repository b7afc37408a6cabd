<script setup lang="ts">
import { t } from '@/ui/words'
import { vFocus } from '@/ui/focus'
import { ref, watch } from 'vue'
import FormDialog from '@/ui/FormDialog.vue'

/** Asks for a reason in words before something that needs one. */
defineProps<{ title: string; text: string; act: string }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ given: [reason: string] }>()
const reason = ref('')
watch(open, () => (reason.value = ''))

function give() {
  const text = reason.value.trim()
  emit('given', text)
  open.value = false
}
</script>

<template>
  <FormDialog
    v-model="open"
    :title="title"
    :action="act"
    :wide="500"
    :disabled="!reason.trim()"
    @confirm="give"
  >
    <p>{{ text }}</p>
    <v-text-field v-model="reason" v-focus :label="t('ui.reason')" maxlength="300" />
  </FormDialog>
</template>
