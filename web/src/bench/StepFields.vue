<script setup lang="ts">
import { onMounted, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import BurnCodes from '@/bench/BurnCodes.vue'
import ActButton from '@/ui/ActButton.vue'
import { capital } from '@/ui/words'
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
  <div v-for="asked in fields" :key="asked.name" class="asked">
    <BurnCodes
      v-if="asked.name === 'code' && Object.keys(asked.words).length"
      v-model="typed[asked.name]"
      :words="asked.words"
      :title="asked.title"
    />
    <v-select
      v-else-if="asked.kind === 'choice'"
      v-model="typed[asked.name]"
      :items="asked.choices.map((value) => ({ value, title: value.replace(/-/g, ' ') }))"
      :label="capital(asked.title)"
    />
    <v-text-field
      v-else
      ref="first"
      v-model="typed[asked.name]"
      class="mono typing"
      :class="{ several: fields.length > 1, words: asked.kind !== 'number' }"
      :label="capital(asked.required ? asked.title : `${asked.title}, optional`)"
      :suffix="asked.unit"
      :inputmode="asked.kind === 'text' ? 'text' : 'decimal'"
      autocomplete="off"
    />
    <ActButton
      v-if="asked.gauge && gaugeFor(asked.gauge)"
      type="button"
      :disabled="reading"
      @click="act(() => read(asked.name, gaugeFor(asked.gauge!)!.id))"
    >
      Read {{ asked.gauge.replace('-', ' ') }}
    </ActButton>
    <ActButton
      v-else-if="shownFor(asked.name)"
      type="button"
      @click="emit('take', asked.name, String(shownFor(asked.name)!.value))"
    >
      {{ device }} shows <b class="mono">{{ shownFor(asked.name)!.value }}</b>
    </ActButton>
  </div>
  <RefusalNote v-model="refused" />
</template>

<style scoped>
.asked {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  padding-top: 6px;
}

.asked .v-select,
.words {
  width: 100%;
}

.typing:not(.words) {
  flex: none;
  width: 210px;
}

.typing:not(.words) :deep(.v-field) {
  font-size: 26px;
}

.typing :deep(input) {
  font-family: var(--mono);
}

.typing:not(.words) :deep(input) {
  text-align: right;
}

.several:not(.words) :deep(.v-field) {
  font-size: 19px;
}
</style>
