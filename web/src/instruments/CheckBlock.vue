<script setup lang="ts">
import { t } from '@/ui/words'
import { ref } from 'vue'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import CheckChart from '@/instruments/CheckChart.vue'
import type { Check } from '@/instruments/instruments'
import ActButton from '@/ui/ActButton.vue'
import { figureFrom } from '@/ui/numbers'
import RefusalNote from '@/ui/RefusalNote.vue'
import { dayOf } from '@/ui/dates'

/** A reference check: what it should read, its chart, and one more reading. */
const props = defineProps<{ check: Check; mayEnd: boolean }>()
const { act, refused, refusedFor, busy } = useAct()
const typed = ref('')

async function read(is_sure = false) {
  const [number = '', unit = ''] = typed.value.trim().split(/\s+(?=\D)/)
  const body = { value: figureFrom(number), unit: unit.trim(), is_sure }
  const params = { path: { check_id: props.check.id } }
  // Emptied as soon as it is taken, so that the next figure is not lost while the page is read again.
  await act(async () => {
    await ask(client.POST('/api/checks/{check_id}/readings', { params, body }))
    typed.value = ''
  })
}
const end = () =>
  act(() =>
    ask(
      client.POST('/api/checks/{check_id}/close', {
        params: { path: { check_id: props.check.id } },
      }),
    ),
  )
</script>

<template>
  <article>
    <header>
      <h3>{{ check.title }}</h3>
      <p class="mono small">
        {{ check.target }} ± {{ check.limit }} {{ check.unit }}
        <span :class="check.due ? 'bad' : 'quiet'">
          · {{ check.due ? t('instruments.was-due') : t('instruments.due') }}
          {{ dayOf(check.due_at) }}
        </span>
      </p>
    </header>
    <CheckChart :check="check" />
    <p v-if="check.readings.length" class="small" :class="check.readings.at(-1)!.verdict">
      {{ dayOf(check.readings.at(-1)!.at) }}, {{ check.readings.at(-1)!.by }}:
      <b class="mono">{{ check.readings.at(-1)!.value }} {{ check.unit }}</b
      >, {{ check.readings.at(-1)!.text }}
    </p>
    <form @submit.prevent="read()">
      <v-text-field
        v-model="typed"
        class="mono"
        :label="t('instruments.reading')"
        :suffix="check.unit"
      />
      <ActButton :disabled="busy || !typed.trim()">{{ t('instruments.record-reading') }}</ActButton>
      <ActButton
        v-if="mayEnd"
        type="button"
        kind="plain"
        class="small"
        :disabled="busy"
        @click="end"
      >
        {{ t('instruments.end-this-check') }}
      </ActButton>
    </form>
    <RefusalNote v-model="refused" />
    <ActButton v-if="refusedFor === 'needs-reason' && typed" :disabled="busy" @click="read(true)">
      {{ t('instruments.record-the-instrument-shows-it', { typed, unit: check.unit }) }}
    </ActButton>
  </article>
</template>

<style scoped>
article {
  display: grid;
  gap: 6px;
  padding: 10px 0 14px;
  border-top: 1px solid var(--hair);
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
  align-items: baseline;
  justify-content: space-between;
}

form {
  display: flex;
  gap: 12px;
  align-items: center;
}

form .v-text-field {
  max-width: 240px;
}

.watch {
  color: var(--ochre);
}

.out {
  color: var(--brick);
}
</style>
