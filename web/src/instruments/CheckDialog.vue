<script setup lang="ts">
import { t } from '@/ui/words'
import { vFocus } from '@/ui/focus'
import { reactive, watch } from 'vue'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import type { Instrument } from '@/instruments/instruments'
import { figureFrom } from '@/ui/numbers'
import { useDraftOf } from '@/ui/drafts'
import FormDialog from '@/ui/FormDialog.vue'

/** A reference check that is kept up from now on: what is read, and how far off it may be. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ instrument: Instrument }>()
const { act, refused, busy } = useAct()
const empty = () => ({ title: '', unit: '', target: '', warn: '', limit: '', every: '7' })
const typed = reactive(empty())
watch(
  open,
  (isOpen) => isOpen && Object.assign(typed, empty(), { unit: props.instrument.unit ?? '' }),
)
const draft = useDraftOf(() => `check/${props.instrument.serial}`, typed)

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
  if (await act(() => ask(client.POST('/api/instruments/{serial}/checks', { params, body })))) {
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
    :title="t('instruments.add-check-of', { station: instrument.station || instrument.name })"
    :action="t('instruments.add-check')"
    :wide="560"
    :disabled="busy || !typed.title.trim() || !typed.unit.trim()"
    @confirm="save"
  >
    <p class="quiet">
      {{ t('instruments.outside-the-limit-the-instrument-is-out') }}
    </p>
    <v-text-field
      v-model="typed.title"
      v-focus
      :label="t('instruments.quantity')"
      :placeholder="t('instruments.reference-resin-r-12-check-foil-50-m')"
    />
    <div class="pairs">
      <v-text-field v-model="typed.target" class="mono" :label="t('instruments.reference-value')" />
      <v-text-field v-model="typed.unit" class="mono" :label="t('instruments.unit')" />
      <v-text-field
        v-model="typed.warn"
        class="mono"
        :label="t('instruments.warning-at')"
        :suffix="typed.unit"
      />
      <v-text-field
        v-model="typed.limit"
        class="mono"
        :label="t('instruments.limit')"
        :suffix="typed.unit"
      />
      <v-text-field
        v-model="typed.every"
        class="mono"
        :label="t('instruments.every')"
        :suffix="t('instruments.days')"
      />
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
