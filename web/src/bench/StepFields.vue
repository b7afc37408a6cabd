<script setup lang="ts">
import { t } from '@/ui/words'
import { onMounted, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import BurnCodes from '@/bench/BurnCodes.vue'
import ActButton from '@/ui/ActButton.vue'
import { capital } from '@/ui/phrases'
import RefusalNote from '@/ui/RefusalNote.vue'

/** The values that a step asks for: typed, chosen, or read off a gauge or the device. */
const props = defineProps<{
  fields: Schemas['StepView']['asks']
  gauges: Schemas['GaugeView'][]
  shows: Schemas['ShownView'][]
  device: string
  read: (name: string, gaugeId: number) => Promise<void>
}>()
const typed = defineModel<Record<string, string>>({ required: true })
const emit = defineEmits<{ take: [name: string, value: string] }>()
const { act, refused, busy: reading } = useAct()
const first = ref<{ focus(): void }[]>([])
onMounted(() => first.value[0]?.focus())

/** What the device at the station reads now, for a field that is a number. */
const shownFor = (name: string) =>
  props.shows.find((shown) => shown.name === name && typeof shown.value === 'number')
const gaugeFor = (kind: string) => props.gauges.find((gauge) => gauge.kind === kind)
</script>

<template>
  <div v-for="field in fields" :key="field.name" class="field">
    <BurnCodes
      v-if="field.name === 'code' && Object.keys(field.explanations).length"
      v-model="typed[field.name]"
      :labels="field.explanations"
      :title="field.title"
    />
    <v-select
      v-else-if="field.kind === 'choice'"
      v-model="typed[field.name]"
      :items="field.choices.map((value) => ({ value, title: value.replace(/-/g, ' ') }))"
      :label="capital(field.title)"
    />
    <v-text-field
      v-else
      ref="first"
      v-model="typed[field.name]"
      class="mono typing"
      :class="{ several: fields.length > 1, text: field.kind !== 'number' }"
      :label="capital(field.required ? field.title : t('bench.optional', { title: field.title }))"
      :suffix="field.unit"
      :inputmode="field.kind === 'text' ? 'text' : 'decimal'"
      autocomplete="off"
    />
    <ActButton
      v-if="field.gauge && gaugeFor(field.gauge)"
      type="button"
      :disabled="reading"
      @click="act(() => read(field.name, gaugeFor(field.gauge!)!.id))"
    >
      {{ t('bench.read', { gauge: field.gauge.replace('-', ' ') }) }}
    </ActButton>
    <ActButton
      v-else-if="shownFor(field.name)"
      type="button"
      @click="emit('take', field.name, String(shownFor(field.name)!.value))"
    >
      <i18n-t keypath="bench.shows" scope="global"
        ><template #device>{{ device }}</template
        ><template #value
          ><b class="mono">{{ shownFor(field.name)!.value }}</b></template
        ></i18n-t
      >
    </ActButton>
  </div>
  <RefusalNote v-model="refused" />
</template>

<style scoped>
.field {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  padding-top: 6px;
}

.field .v-select,
.text {
  width: 100%;
}

.typing:not(.text) {
  flex: none;
  width: 210px;
}

.typing:not(.text) :deep(.v-field) {
  font-size: 26px;
}

.typing :deep(input) {
  font-family: var(--mono);
}

.typing:not(.text) :deep(input) {
  text-align: right;
}

.several:not(.text) :deep(.v-field) {
  font-size: 19px;
}
</style>
