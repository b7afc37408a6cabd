<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, ref, watch } from 'vue'
import { serverNow } from '@/app/clock'
import { dayFrom, dayOf, isoDay, momentFrom, written } from '@/ui/dates'

/**
 * A day, or a day and a time: typed as the laboratory writes it, or picked. The model is "2026-11-20", or an
 * ISO moment with `withTime`; "" while nothing is typed, null while what is typed is no date.
 */
const value = defineModel<string | null>({ required: true })
const props = defineProps<{ label: string; withTime?: boolean; disabled?: boolean }>()
const text = ref('')
const isPicking = ref(false)

const show = (model: string) =>
  props.withTime ? written(new Date(model)) : dayOf(`${model}T12:00`)
function read(typed: string): string | null {
  if (!typed.trim()) return ''
  return props.withTime ? (momentFrom(typed)?.toISOString() ?? null) : dayFrom(typed)
}
watch(
  value,
  (now) => {
    if (now !== read(text.value)) text.value = now ? show(now) : ''
  },
  { immediate: true },
)
watch(text, (typed) => (value.value = read(typed)))

const example = show(
  props.withTime ? new Date(serverNow()).toISOString() : isoDay(new Date(serverNow())),
)
const isOdd = computed(() => read(text.value) === null)
/** The day in the picker; the time that was typed stays, and is 16:00 where none was. */
const picked = computed(() => {
  const model = read(text.value)
  return model ? new Date(props.withTime ? model : `${model}T12:00`) : null
})
function pick(day: unknown) {
  const at = new Date(day as Date)
  if (picked.value && props.withTime)
    at.setHours(picked.value.getHours(), picked.value.getMinutes(), 0, 0)
  else at.setHours(16, 0, 0, 0)
  text.value = props.withTime ? written(at) : dayOf(at.toISOString())
  isPicking.value = false
}
</script>

<template>
  <v-text-field
    v-model="text"
    class="date"
    :label="label"
    :disabled="disabled"
    :placeholder="example"
    :error-messages="
      isOdd
        ? t('ui.enter-a-day-such-as', { part: withTime ? t('ui.and-a-time') : '', example })
        : undefined
    "
  >
    <template #append-inner>
      <v-menu v-model="isPicking" :close-on-content-click="false">
        <template #activator="{ props: opener }">
          <button
            v-bind="opener"
            type="button"
            class="plain"
            :disabled="disabled"
            :aria-label="t('ui.pick-a-day')"
          >
            <svg viewBox="0 0 20 20" width="20" height="20" aria-hidden="true">
              <path d="M3 5.5h14v11H3zM3 9h14M7 3v4M13 3v4" />
            </svg>
          </button>
        </template>
        <v-date-picker
          :model-value="picked"
          hide-header
          show-adjacent-months
          @update:model-value="pick"
        />
      </v-menu>
    </template>
  </v-text-field>
</template>

<style scoped>
button {
  padding: 4px;
  color: var(--ink-2);
  line-height: 0;
}

path {
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.6;
}
</style>
