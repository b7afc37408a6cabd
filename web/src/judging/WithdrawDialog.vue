<script setup lang="ts">
import { t } from '@/ui/words'
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
    :title="t('judging.withdraw-2', { name })"
    :action="t('judging.withdraw-report')"
    :wide="500"
    :disabled="!reason.trim() || !password"
    @confirm="give"
  >
    <p>
      {{ t('judging.the-report-stays-available-every-page') }}
    </p>
    <v-text-field v-model="reason" v-focus :label="t('judging.reason')" maxlength="300" />
    <v-text-field
      v-model="password"
      type="password"
      :label="t('judging.your-password')"
      autocomplete="current-password"
    />
  </FormDialog>
</template>
