<script setup lang="ts">
import { t } from '@/ui/words'
import { vFocus } from '@/ui/focus'
import { figureFrom } from '@/ui/numbers'
import { reactive, watch } from 'vue'
import type { Schemas } from '@/api/client'
import FormDialog from '@/ui/FormDialog.vue'

/** Set point and tolerances of an enclosure. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ room: Schemas['EnclosureView'] }>()
const emit = defineEmits<{ set: [requested: Schemas['SetPointRequest']] }>()

const typed = reactive({ t: '', tt: '', h: '', ht: '', why: '' })
const shown = (value: number | null) => (value === null ? '' : String(value))
watch(open, (now) => {
  if (!now) return
  typed.why = ''
  typed.t = shown(props.room.temperature_c)
  typed.tt = shown(props.room.temperature_tolerance_c)
  typed.h = shown(props.room.humidity_percent)
  typed.ht = shown(props.room.humidity_tolerance_percent)
})
const number = (text: string) => (text.trim() ? figureFrom(text) : null)

function done() {
  emit('set', {
    temperature_c: number(typed.t) ?? NaN,
    temperature_tolerance_c: number(typed.tt) ?? NaN,
    humidity_percent: number(typed.h),
    humidity_tolerance_percent: number(typed.ht),
    reason: typed.why.trim(),
  })
  open.value = false
}
</script>

<template>
  <FormDialog
    v-model="open"
    :title="room.name"
    :action="t('conditioning.request-set-point')"
    :wide="520"
    :disabled="!typed.why.trim()"
    @confirm="done"
  >
    <p class="quiet">
      {{ t('conditioning.the-set-point-applies-once-another') }}
    </p>
    <div class="pair">
      <v-text-field
        v-model="typed.t"
        v-focus
        class="mono"
        :label="t('conditioning.temperature')"
        suffix="°C"
      />
      <v-text-field v-model="typed.tt" class="mono" label="±" suffix="°C" />
      <v-text-field
        v-model="typed.h"
        class="mono"
        :label="t('conditioning.humidity')"
        suffix="%RH"
      />
      <v-text-field v-model="typed.ht" class="mono" label="±" suffix="%RH" />
    </div>
    <v-text-field v-model="typed.why" :label="t('conditioning.reason')" maxlength="300" />
  </FormDialog>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1.4fr 1fr;
  gap: 14px;
}
</style>
