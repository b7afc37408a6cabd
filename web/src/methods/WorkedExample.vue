<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { fieldWords } from '@/jobs/schema'
import { shown } from '@/methods/shown'
import ActButton from '@/ui/ActButton.vue'
import { three } from '@/ui/numbers'
import type { Mark } from '@/ui/mark'
import TraceChart from '@/ui/TraceChart.vue'
import WorkingSlip from '@/ui/WorkingSlip.vue'

/** What the method makes of readings that ship with it, each figure with its working. */
const props = defineProps<{ example: Schemas['ExampleView'] }>()
const chosen = ref(0)
const slip = ref(false)
const specimen = computed(() => props.example.specimens[chosen.value] ?? null)
interface Result {
  valid: boolean
  values: Record<string, { value: number | null; unit: string; qualifier?: string }>
  flags: { code: string; text: string }[]
  working: Schemas['WorkingRow'][]
  marks: Mark[]
}
const result = computed(() => specimen.value?.result as unknown as Result | null)
const curve = computed(() => specimen.value?.curves.at(-1) ?? null)
const under = computed(() => specimen.value?.curves.slice(0, -1) ?? [])
const read = computed(() =>
  Object.entries(specimen.value?.readings ?? {}).map(
    ([name, value]) => [fieldWords(name), shown(value)] as const,
  ),
)
</script>

<template>
  <section v-if="specimen && result" class="example">
    <h2>{{ t('methods.worked-example') }}</h2>
    <p class="quiet">{{ example.about }}</p>
    <div class="labels" role="group" :aria-label="t('methods.specimens-of-the-example')">
      <ActButton
        v-for="(choice, place) in example.specimens"
        :key="choice.label"
        kind="plain"
        class="mono"
        :class="{ on: place === chosen }"
        :aria-pressed="place === chosen"
        @click="chosen = place"
      >
        {{ choice.label }}
      </ActButton>
    </div>
    <div class="shown" :class="{ flat: !curve }">
      <TraceChart
        v-if="curve"
        :extension="curve.x"
        :force="curve.y"
        :axes="curve"
        :under="under"
        :marks="result.marks"
      />
      <div>
        <dl v-if="read.length" class="read">
          <div v-for="[name, value] in read" :key="name">
            <dt>{{ name }}</dt>
            <dd class="mono">{{ value }}</dd>
          </div>
        </dl>
        <dl class="values">
          <div v-for="(value, name) in result.values" :key="name">
            <dt>{{ String(name).replace(/_/g, ' ') }}</dt>
            <dd class="mono">
              <ActButton kind="plain" class="opens" @click="slip = true">
                {{ value.qualifier ?? '' }} {{ three(value.value) }} {{ value.unit }}
              </ActButton>
            </dd>
          </div>
        </dl>
        <p v-for="flag in result.flags" :key="flag.code" class="flag">{{ flag.text }}</p>
        <ActButton @click="slip = true">{{ t('methods.calculation') }}</ActButton>
      </div>
    </div>
    <WorkingSlip
      v-model="slip"
      :title="specimen?.label ?? ''"
      :lines="(result?.working ?? []) as Schemas['WorkingRow'][]"
    />
  </section>
</template>

<style scoped>
h2 {
  margin: 18px 0 8px;
}

.example {
  margin-top: 26px;
  padding-top: 4px;
  border-top: 2px solid var(--ink);
}

.labels {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin: 10px 0;
}

.labels button {
  min-width: 44px;
  min-height: 34px;
  padding: 0 9px;
  border-radius: 6px;
}

.labels .on {
  background: var(--ink);
  color: var(--page);
}

.shown {
  display: grid;
  grid-template-columns: minmax(0, 1.6fr) minmax(280px, 1fr);
  gap: 34px;
}

.shown.flat {
  grid-template-columns: minmax(0, 640px);
}

.shown :deep(.trace) {
  height: 330px;
}

.values dd {
  font-weight: 700;
}

.flag {
  margin: 10px 0;
  padding-left: 12px;
  border-left: 4px solid var(--ochre);
}

dl {
  margin: 12px 0 0;
}

dl > div {
  display: grid;
  grid-template-columns: minmax(90px, max-content) 1fr;
  gap: 14px;
  padding: 5px 0;
  border-top: 1px solid var(--hair);
}

dt {
  color: var(--ink-2);
}

dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
