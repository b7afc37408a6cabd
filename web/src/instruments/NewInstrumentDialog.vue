<script setup lang="ts">
import { t } from '@/ui/words'
import { vFocus } from '@/ui/focus'
import { computed, reactive, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct, useDeviceKinds } from '@/api/queries'
import DateField from '@/ui/DateField.vue'
import { figureFrom } from '@/ui/numbers'
import { useDraftOf } from '@/ui/drafts'
import FormDialog from '@/ui/FormDialog.vue'

/** A new instrument: what it is, its range, its certificate, and its line where it has one. */
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ added: [serial: string] }>()
const { act, refused, busy } = useAct()
const { kinds } = useDeviceKinds()
type Kind = Schemas['NewRequest']['kind']
/** Loggers belong to a conditioning location and are added there. */
const choices = computed(() => kinds.value.filter((kind) => kind.role !== 'logger'))
const empty = () => ({
  name: '',
  kind: 'pendulum' as Kind,
  serial: '',
  least: '',
  most: '',
  unit: '',
  certificate: '',
  done: '' as string | null,
  due: '' as string | null,
  host: '',
  port: '',
})
const typed = reactive(empty())
watch(open, (isOpen) => isOpen && Object.assign(typed, empty()))
const draft = useDraftOf(() => 'instrument', typed)
const number = (text: string) => (text.trim() ? figureFrom(text) : null)
const at = (day: string) => new Date(`${day}T12:00`).toISOString()

async function save() {
  const body = {
    name: typed.name,
    kind: typed.kind,
    instrument: typed.name,
    serial: typed.serial,
    host: typed.host,
    port: number(typed.port) ?? 0,
    least: number(typed.least),
    most: number(typed.most),
    unit: typed.unit,
    certificate: typed.certificate,
    calibrated_at: at(typed.done!),
    calibration_due_at: at(typed.due!),
  }
  if (await act(() => ask(client.POST('/api/instruments', { body })))) {
    draft.saved()
    open.value = false
    emit('added', typed.serial)
  }
}
</script>

<template>
  <FormDialog
    v-model="open"
    v-model:refused="refused"
    :draft="draft"
    :title="t('instruments.add-instrument')"
    :action="t('instruments.add-instrument')"
    :wide="640"
    :disabled="
      busy ||
      !typed.name.trim() ||
      !typed.serial.trim() ||
      !typed.certificate.trim() ||
      !typed.done ||
      !typed.due
    "
    @confirm="save"
  >
    <div class="leaf-fields">
      <v-text-field v-model="typed.name" v-focus :label="t('instruments.name')" />
      <v-select
        v-model="typed.kind"
        :label="t('instruments.kind')"
        :items="choices"
        item-value="code"
        item-title="title"
      />
      <v-text-field v-model="typed.serial" class="mono" :label="t('instruments.serial-number')" />
      <v-text-field
        v-model="typed.certificate"
        class="mono"
        :label="t('instruments.certificate')"
      />
      <DateField v-model="typed.done" :label="t('instruments.calibrated-on')" />
      <DateField v-model="typed.due" :label="t('instruments.next-due')" />
      <v-text-field v-model="typed.least" class="mono" :label="t('instruments.range-from')" />
      <v-text-field v-model="typed.most" class="mono" :label="t('instruments.to-2')" />
      <v-text-field v-model="typed.unit" class="mono" :label="t('instruments.unit')" />
      <v-text-field
        v-model="typed.host"
        class="mono"
        :label="t('instruments.network-address-optional')"
      />
      <v-text-field v-model="typed.port" class="mono" :label="t('instruments.port')" />
    </div>
  </FormDialog>
</template>
