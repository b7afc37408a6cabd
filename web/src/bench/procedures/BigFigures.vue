<script setup lang="ts">
import { fixed } from '@/ui/numbers'
import ActButton from '@/ui/ActButton.vue'

/** The two figures that matter, large; the first opens its working once there is one. */
export interface Figure {
  value: number | null
  unit: string
  digits: number
  /** The figure as it is reported, once there is one. */
  text?: string | null
  /** What it is: now, the highest, the result. */
  title?: string
}
defineProps<{
  first: Figure
  second: Figure
  opens: string
  setUp: string
  device?: { value: number; name: string; unit: string } | null
}>()
defineEmits<{ open: [] }>()
const shown = (figure: Figure) =>
  figure.text ?? (figure.value === null ? '–' : fixed(figure.value, figure.digits))
</script>

<template>
  <div class="figures">
    <p>
      <ActButton
        v-if="opens"
        kind="plain"
        class="mono big opens"
        :aria-label="opens"
        @click="$emit('open')"
      >
        {{ shown(first) }}
      </ActButton>
      <span v-else class="mono big">{{ shown(first) }}</span>
      <span
        >{{ first.unit }} <i v-if="first.title" class="quiet small">{{ first.title }}</i></span
      >
    </p>
    <p>
      <span class="mono second">{{ shown(second) }}</span>
      <span
        >{{ second.unit }} <i v-if="second.title" class="quiet small">{{ second.title }}</i></span
      >
    </p>
    <p v-if="device" class="small quiet">
      <i18n-t keypath="bench.now" scope="global"
        ><template #name>{{ device.name }}</template
        ><template #value
          ><b class="mono">{{ fixed(device.value, 1) }}</b></template
        ><template #unit>{{ device.unit }}</template></i18n-t
      >
    </p>
    <p class="mono quiet small set">{{ setUp }}</p>
  </div>
</template>

<style scoped>
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 30px;
  align-items: baseline;
}

p {
  display: flex;
  gap: 8px;
  align-items: baseline;
}

.big {
  display: inline-block;
  min-width: 3.6ch;
  font-size: 50px;
  font-weight: 700;
  line-height: 1;
  text-align: right;
}

.opens {
  border-bottom: 1.5px dotted var(--ink-3);
  white-space: nowrap;
}

.second {
  display: inline-block;
  min-width: 5ch;
  font-size: 32px;
  line-height: 1;
  text-align: right;
}

i {
  font-style: normal;
}

.set {
  min-width: 0;
  margin-left: auto;
  text-align: right;
}

p:not(.set) {
  white-space: nowrap;
}

@media (max-width: 1100px) {
  .set {
    display: none;
  }
}

@media (max-width: 480px) {
  p:not(.set) {
    flex-wrap: wrap;
    white-space: normal;
  }
}
</style>
