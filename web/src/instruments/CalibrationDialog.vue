<script setup lang="ts">
import { t } from '@/ui/words'
import { vFocus } from '@/ui/focus'
import { reactive, watch } from 'vue'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import type { Instrument } from '@/instruments/instruments'
import DateField from '@/ui/DateField.vue'
import { useDraftOf } from '@/ui/drafts'
import FormDialog from '@/ui/FormDialog.vue'

/** A calibration that was done: its certificate, when, and when the next is due. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ instrument: Instrument }>()
const { act, refused, busy } = useAct()
const typed = reactive({ certificate: '', done: '', due: '' })
watch(open, (isOpen) => isOpen && Object.assign(typed, { certificate: '', done: '', due: '' }))
const draft = useDraftOf(() => `calibration/${props.instrument.serial}`, typed)
const at = (day: string) => new Date(`${day}T12:00`).toISOString()

async function save() {
  const answer = {
    params: { path: { serial: props.instrument.serial } },
    body: {
      certificate: typed.certificate,
      calibrated_at: at(typed.done),
      calibration_due_at: at(typed.due),
    },
  }
  if (await act(() => ask(client.POST('/api/instruments/{serial}/calibrate', answer)))) {
    draft.saved()
    open.value = false
  }
}
</script>

<template>
  <FormDialog
    v-model="open"
    v-model:refused="refused"
    :draft="draft"
    :title="t('instruments.record-calibration-of', { name: instrument.name })"
    :action="t('instruments.record-calibration')"
    :wide="520"
    :disabled="busy || !typed.certificate.trim() || !typed.done || !typed.due"
    @confirm="save"
  >
    <v-text-field
      v-model="typed.certificate"
      v-focus
      class="mono"
      :label="t('instruments.certificate')"
    />
    <DateField v-model="typed.done" :label="t('instruments.calibrated-on')" />
    <DateField v-model="typed.due" :label="t('instruments.next-due')" />
  </FormDialog>
</template>
