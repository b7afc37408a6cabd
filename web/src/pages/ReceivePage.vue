<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { ask, client, type JobView } from '@/api/client'
import RefusalNote from '@/components/RefusalNote.vue'
import { limitsFrom } from '@/composables/limits'
import { useAct, useMethods } from '@/composables/queries'

/** The counter: what arrived, what is asked of it, and by which limits. */
const router = useRouter()
const methods = useMethods()
const { act, refused, busy } = useAct()
const requestKey = crypto.randomUUID()

const inFourDays = new Date(Date.now() + 4 * 86_400_000)
inFourDays.setHours(16, 0, 0, 0)
const local = new Date(inFourDays.getTime() - inFourDays.getTimezoneOffset() * 60_000)

const sample = reactive({
  client: '',
  product: '',
  lot: '',
  material: '',
  arrival_state: 'as it should be',
  width_mm: '1480',
  length_mm: '1000',
  due: local.toISOString().slice(0, 16),
})
const limits = reactive<Record<string, string>>({})
const tried = ref(false)
const asked = ref<string | null>(null)
const method = computed(
  () => methods.data.value?.find((one) => one.id === asked.value) ?? methods.data.value?.[0],
)

const width = computed(() => Number(sample.width_mm))
const length = computed(() => Number(sample.length_mm))
const drawn = computed(() => {
  const scale = Math.min(300 / width.value, 300 / length.value)
  return Number.isFinite(scale) && scale > 0 ? [width.value * scale, length.value * scale] : null
})
const missing = computed(() =>
  (['client', 'product', 'lot', 'material'] as const).filter((name) => !sample[name].trim()),
)

const need = (value: string) => (tried.value && !value.trim() ? 'is needed' : undefined)

async function receive() {
  tried.value = true
  if (missing.value.length || !method.value) return
  let made: JobView | null = null
  const { due, ...facts } = sample
  const property = method.value.properties[0]!.name!
  const rows = method.value.directions.map((direction) => ({ property, direction }))
  const body = {
    ...facts,
    width_mm: width.value,
    length_mm: length.value,
    due_at: new Date(due).toISOString(),
    request_key: requestKey,
    tests: [
      {
        method: method.value.id,
        parameters: {},
        limits: limitsFrom(rows, limits),
      },
    ],
  }
  const done = await act(async () => {
    made = await ask(client.POST('/api/jobs', { body }))
  })
  if (done && made) await router.push(`/cutting/${(made as JobView).id}`)
}
</script>

<template>
  <form class="counter" @submit.prevent="receive">
    <header>
      <h1>Receive a sample</h1>
      <button class="act main" :disabled="busy">
        {{ busy ? 'Writing it down …' : 'Receive it, then cut' }} <kbd>Enter</kbd>
      </button>
    </header>
    <RefusalNote v-model="refused" />
    <div class="halves">
      <section>
        <h2>What arrived</h2>
        <div class="pair">
          <v-text-field
            v-model="sample.client"
            label="Client"
            :error-messages="need(sample.client)"
            autofocus
          />
          <v-text-field v-model="sample.lot" label="Lot" :error-messages="need(sample.lot)" />
        </div>
        <v-text-field
          v-model="sample.product"
          label="Product"
          :error-messages="need(sample.product)"
        />
        <v-text-field
          v-model="sample.material"
          label="Material, with mass if known"
          :error-messages="need(sample.material)"
        />
        <v-text-field v-model="sample.arrival_state" label="State on arrival" />
        <h2>What is asked for</h2>
        <div class="tests">
          <button
            v-for="one in methods.data.value ?? []"
            :key="one.id"
            type="button"
            class="test"
            :class="{ chosen: method?.id === one.id }"
            :aria-pressed="method?.id === one.id"
            @click="asked = one.id"
          >
            <strong>{{ one.title }}</strong>
            <span class="mono small">{{ one.id }}</span>
            <span class="quiet small">
              {{ one.specimens_per_direction }} + {{ one.spares_per_direction }} spare each way,
              {{ one.size_words }}
            </span>
          </button>
        </div>
        <div v-if="method" class="limits">
          <v-text-field
            v-for="direction in method.directions"
            :key="direction"
            v-model="limits[direction]"
            class="mono"
            :label="`${direction}: mean at least`"
            :suffix="method.properties[0]?.unit"
            inputmode="decimal"
            placeholder="no limit"
          />
        </div>
        <p class="quiet small">
          The last digit of a limit says to where figures are rounded: 25 and 25.0 differ.
          Directions name the yarn that tears.
        </p>
      </section>
      <section>
        <h2>How large it is</h2>
        <div class="pair">
          <v-text-field
            v-model="sample.width_mm"
            class="mono"
            label="Across the roll"
            suffix="mm"
            inputmode="decimal"
          />
          <v-text-field
            v-model="sample.length_mm"
            class="mono"
            label="Along the roll"
            suffix="mm"
            inputmode="decimal"
          />
        </div>
        <figure v-if="drawn">
          <svg width="380" height="360" viewBox="-50 -20 380 360" aria-hidden="true">
            <rect :width="drawn[0]" :height="drawn[1]" class="cloth" />
            <path :d="`M0 ${drawn[1]! + 12}h${drawn[0]}`" class="measure" />
            <text :x="drawn[0]! / 2" :y="drawn[1]! + 30" text-anchor="middle">
              {{ sample.width_mm }} mm, weft
            </text>
            <path :d="`M-12 0v${drawn[1]}`" class="measure" />
            <text
              :transform="`rotate(-90 -22 ${drawn[1]! / 2}) translate(-22 ${drawn[1]! / 2})`"
              text-anchor="middle"
            >
              {{ sample.length_mm }} mm, warp
            </text>
          </svg>
        </figure>
        <v-text-field v-model="sample.due" label="Due" type="datetime-local" />
      </section>
    </div>
  </form>
</template>

<style scoped>
header {
  display: flex;
  align-items: center;
  justify-content: space-between;
}

.halves {
  display: grid;
  grid-template-columns: minmax(0, 1.25fr) minmax(340px, 1fr);
  gap: 0 56px;
}

section {
  display: grid;
  gap: 14px;
  align-content: start;
}

h2 {
  margin-top: 12px;
}

.pair,
.limits {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
}

.tests {
  display: grid;
  gap: 8px;
}

.test {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
  min-height: var(--touch);
  padding: 9px 14px;
  border: 1.5px solid var(--ink-3);
  border-radius: 7px;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.chosen {
  border-color: var(--blue);
  box-shadow: inset 4px 0 0 var(--blue);
}

figure {
  margin: 0;
}

.cloth {
  fill: var(--sunk);
  stroke: var(--ink);
  stroke-width: 1.5;
}

figure svg {
  max-width: 100%;
}

.measure {
  stroke: var(--ink-2);
}

text {
  fill: var(--ink-2);
  font: 14px var(--mono);
}

@media (max-width: 1100px) {
  .halves {
    grid-template-columns: minmax(0, 1.1fr) minmax(0, 1fr);
    gap: 0 30px;
  }
}

@media (max-width: 860px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
