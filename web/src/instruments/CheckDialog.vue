<script setup lang="ts">
import { vFocus } from '@/ui/focus'
import { reactive, watch } from 'vue'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import type { Instrument } from '@/instruments/instruments'
import { figureFrom } from '@/ui/numbers'
import FormDialog from '@/ui/FormDialog.vue'

/** A reference check that is kept up from now on: what is read, and how far off it may be. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ instrument: Instrument }>()
const { act, refused, busy } = useAct()
const empty = () => ({ title: '', unit: '', target: '', warn: '', limit: '', every: '7' })
const typed = reactive(empty())
watch(open, () => Object.assign(typed, empty(), { unit: props.instrument.unit ?? '' }))

async function save() {
  const body = {
    title: typed.title,
    unit: typed.unit,
    target: figureFrom(typed.target),
    warn: figureFrom(typed.warn),
    limit: figureFrom(typed.limit),
    every_days: figureFrom(typed.every),
  }
  const params = { path: { serial: props.instrument.serial } }
  if (await act(() => ask(client.POST('/api/instruments/{serial}/checks', { params, body }))))
    open.value = false
}
</script>

<template>
  <FormDialog
    v-model="open"
    v-model:refused="refused"
    :title="`Add check of ${instrument.station || instrument.name}`"
    action="Add check"
    :wide="560"
    :disabled="busy || !typed.title.trim() || !typed.unit.trim()"
    @confirm="save"
  >
    <p class="quiet">
      Outside the limit, the instrument is out of service until a check passes. Two of three
      readings beyond the warning limit, or seven in a row on one side, put it under watch.
    </p>
    <v-text-field
      v-model="typed.title"
      v-focus
      label="Quantity"
      placeholder="reference resin R-12, check foil 50 µm, free swing"
    />
    <div class="pairs">
      <v-text-field v-model="typed.target" class="mono" label="Reference value" />
      <v-text-field v-model="typed.unit" class="mono" label="Unit" />
      <v-text-field v-model="typed.warn" class="mono" label="Warning at ±" :suffix="typed.unit" />
      <v-text-field v-model="typed.limit" class="mono" label="Limit ±" :suffix="typed.unit" />
      <v-text-field v-model="typed.every" class="mono" label="Every" suffix="days" />
    </div>
  </FormDialog>
</template>

<style scoped>
.pairs {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>
