<script setup lang="ts">
import { ref, watch } from 'vue'
import { vFocus } from '@/ui/focus'
import FormDialog from '@/ui/FormDialog.vue'

/** Asks why a report holds no longer, and for the password again. */
defineProps<{ name: string }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ withdraw: [reason: string, password: string] }>()
const reason = ref('')
const password = ref('')
watch(open, () => {
  reason.value = ''
  password.value = ''
})
function give() {
  emit('withdraw', reason.value.trim(), password.value)
  open.value = false
}
</script>

<template>
  <FormDialog
    v-model="open"
    :title="`Withdraw ${name}?`"
    action="Withdraw report"
    :wide="500"
    :disabled="!reason.trim() || !password"
    @confirm="give"
  >
    <p>
      The report stays available. Every page states who withdrew it, when and why. This cannot be
      undone. A correction issues a new revision.
    </p>
    <v-text-field v-model="reason" v-focus label="Reason" maxlength="300" />
    <v-text-field
      v-model="password"
      type="password"
      label="Your password"
      autocomplete="current-password"
    />
  </FormDialog>
</template>
