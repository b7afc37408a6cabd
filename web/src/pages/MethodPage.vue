<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ask, client } from '@/api/client'
import FromRecord from '@/components/FromRecord.vue'
import SpecimenDrawing from '@/components/SpecimenDrawing.vue'
import TraceChart, { type Mark } from '@/components/TraceChart.vue'
import WorkingSlip from '@/components/WorkingSlip.vue'
import { fieldWords } from '@/composables/schema'
import { three } from '@/composables/words'

/** The page of one method, as it would hang on the wall of the lab. */
const props = defineProps<{ method: string }>()
const params = { path: { method_id: props.method } }
const page = useQuery({
  queryKey: ['method', props.method],
  queryFn: () => ask(client.GET('/api/methods/{method_id}', { params })),
  staleTime: Infinity,
})
const example = useQuery({
  queryKey: ['example', props.method],
  queryFn: () => ask(client.GET('/api/methods/{method_id}/example', { params })),
  staleTime: Infinity,
})
const told = computed(() => page.data.value ?? null)
const chosen = ref(0)
const slip = ref(false)
const specimen = computed(() => example.data.value?.specimens[chosen.value] ?? null)
interface Told {
  valid: boolean
  values: Record<string, { value: number | null; unit: string; qualifier?: string }>
  flags: { code: string; text: string }[]
  working: Record<string, string>[]
  marks: Mark[]
}
const result = computed(() => specimen.value?.result as unknown as Told | null)
const curve = computed(() => specimen.value?.curves.at(-1) ?? null)
const under = computed(() =>
  (specimen.value?.curves.length ?? 0) > 1 ? specimen.value!.curves[0] : undefined,
)
const read = computed(() =>
  Object.entries(specimen.value?.readings ?? {}).map(
    ([name, value]) => [fieldWords(name), shown(value)] as const,
  ),
)
const parameters = computed(() =>
  (told.value?.parameters ?? []).filter((one) => one.name !== 'rounding'),
)

function shown(value: unknown): string {
  if (value === null || value === undefined) return '–'
  if (Array.isArray(value)) {
    if (value.every((one) => typeof one !== 'object')) return value.join(', ')
    const rows = value.map((one) =>
      Object.values(one as object)
        .map(plain)
        .join(' '),
    )
    return rows.length > 8 ? `${rows.slice(0, 8).join('; ')} …` : rows.join('; ')
  }
  if (typeof value === 'object')
    return Object.entries(value)
      .filter(([, one]) => one !== null)
      .map(([name, one]) => `${fieldWords(name)} ${shown(one)}`)
      .join('; ')
  return plain(value)
}
const plain = (value: unknown) => (value === true ? 'yes' : value === false ? 'no' : String(value))
</script>

<template>
  <FromRecord v-if="!told" :query="page" />
  <article v-else class="wall">
    <header>
      <p class="mono small quiet">
        <router-link to="/methods">Methods</router-link> · {{ told.family }} · {{ told.id }}
      </p>
      <h1>{{ told.title }}</h1>
      <p class="purpose">{{ told.purpose }}</p>
    </header>

    <ul class="cautions" aria-label="Cautions">
      <li v-for="line in told.cautions" :key="line">{{ line }}</li>
    </ul>

    <div class="columns">
      <section class="specimen">
        <h2>The specimen</h2>
        <SpecimenDrawing v-if="told.cut" :cut="told.cut" />
        <p>{{ told.specimen }}</p>
        <dl>
          <div>
            <dt>How many</dt>
            <dd>
              {{ told.specimens_per_direction }}
              {{ told.directions.length ? `each way: ${told.directions.join(', ')}` : '' }}
            </dd>
          </div>
          <div>
            <dt>Atmosphere</dt>
            <dd>{{ told.atmosphere }}</dd>
          </div>
        </dl>
      </section>

      <section>
        <h2>Before you start</h2>
        <ul class="checks">
          <li v-for="check in told.ready_checks" :key="check.title as string">
            <strong>{{ check.title }}</strong>
            <span class="quiet"> {{ check.reason }}</span>
          </li>
        </ul>
        <h2>Steps</h2>
        <ol class="steps">
          <li v-for="line in told.steps" :key="line">{{ line }}</li>
        </ol>
      </section>

      <section>
        <h2>What is computed</h2>
        <ul class="plain-list">
          <li v-for="line in told.computes" :key="line">{{ line }}</li>
        </ul>
        <h2>What goes wrong</h2>
        <ul class="wrong">
          <li v-for="line in told.mistakes" :key="line">{{ line }}</li>
        </ul>
        <template v-if="told.observations.length">
          <h2>What you may see</h2>
          <ul class="plain-list">
            <li v-for="one in told.observations" :key="one.code">
              <strong>{{ one.title }}</strong>
              <span class="quiet">
                {{
                  one.severity === 'void'
                    ? 'voids the specimen'
                    : one.severity === 'warn'
                      ? 'counts, and the reviewer looks'
                      : 'is said in the report'
                }}</span
              >
            </li>
          </ul>
        </template>
      </section>
    </div>

    <section v-if="example.data.value && specimen && result" class="example">
      <h2>A worked example</h2>
      <p class="quiet">{{ example.data.value.about }}</p>
      <div class="labels" role="group" aria-label="Specimens of the example">
        <button
          v-for="(one, place) in example.data.value.specimens"
          :key="one.label"
          class="plain mono"
          :class="{ on: place === chosen }"
          :aria-pressed="place === chosen"
          @click="chosen = place"
        >
          {{ one.label }}
        </button>
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
                <button class="plain opens" @click="slip = true">
                  {{ value.qualifier ?? '' }} {{ three(value.value) }} {{ value.unit }}
                </button>
              </dd>
            </div>
          </dl>
          <p v-for="flag in result.flags" :key="flag.code" class="flag">{{ flag.text }}</p>
          <button class="act" @click="slip = true">How the figures came</button>
        </div>
      </div>
    </section>

    <section class="small-print">
      <div>
        <h2>Parameters</h2>
        <table class="ruled">
          <tbody>
            <tr v-for="one in parameters" :key="one.name">
              <td>{{ fieldWords(one.name) }}</td>
              <td class="mono">{{ one.required ? 'needed' : shown(one.default) }}</td>
              <td class="quiet small">{{ one.description }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <div>
        <h2>Reported</h2>
        <table class="ruled">
          <tbody>
            <tr v-for="one in told.reported" :key="one.title">
              <td>{{ one.title }}</td>
              <td class="mono">{{ one.unit }}</td>
              <td class="quiet small">
                {{ one.statistic
                }}{{ ['mean', 'median'].includes(one.statistic!) ? `, ${one.rounded}` : '' }}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>
    <WorkingSlip
      v-model="slip"
      :title="specimen?.label ?? ''"
      :lines="(result?.working ?? []) as Record<string, string>[]"
    />
  </article>
</template>

<style scoped>
.wall > header {
  max-width: 760px;
}

.purpose {
  margin-top: 6px;
  font-size: 18px;
}

.cautions {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 26px;
  margin: 16px 0 6px;
  padding: 10px 16px;
  border-left: 6px solid var(--ochre);
  background: var(--ochre-wash);
  list-style: none;
}

.columns {
  display: grid;
  grid-template-columns: minmax(250px, 1fr) minmax(0, 1.2fr) minmax(0, 1.2fr);
  gap: 0 40px;
}

h2 {
  margin: 18px 0 8px;
}

.specimen p {
  margin-top: 12px;
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

ul,
ol {
  display: grid;
  gap: 7px;
  margin: 0;
  padding-left: 22px;
}

.checks,
.plain-list,
.wrong {
  padding-left: 0;
  list-style: none;
}

.checks li {
  padding-left: 24px;
  text-indent: -24px;
}

.checks .quiet,
.plain-list .quiet {
  display: block;
  text-indent: 0;
}

.checks li::before {
  display: inline-block;
  width: 12px;
  height: 12px;
  margin-right: 12px;
  border: 1.5px solid var(--ink);
  border-radius: 3px;
  content: '';
  text-indent: 0;
}

.wrong li {
  padding-left: 14px;
  border-left: 4px solid var(--brick);
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

.small-print {
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) minmax(0, 1fr);
  gap: 40px;
  margin-top: 26px;
  border-top: 2px solid var(--ink);
}

@media (max-width: 1180px) {
  .columns {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }

  .small-print {
    grid-template-columns: minmax(0, 1fr);
    gap: 0;
  }
}

@media (max-width: 860px) {
  .columns,
  .shown {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
