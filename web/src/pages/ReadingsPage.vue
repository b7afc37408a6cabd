<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { ask, asProblem, client, type Schemas, type SpecimenView } from '@/api/client'
import FromRecord from '@/components/FromRecord.vue'
import RefusalNote from '@/components/RefusalNote.vue'
import SchemaField from '@/components/SchemaField.vue'
import SetUpLeaf from '@/components/SetUpLeaf.vue'
import VoidKeys from '@/components/VoidKeys.vue'
import { useAct, useJob } from '@/composables/queries'
import { meant, type Schema } from '@/composables/schema'
import { placeOf } from '@/router'

/** Readings of the methods that are not run at the bench here: brought in as files, or typed. */
const props = defineProps<{ id: number }>()
const job = useJob(props.id)
const { act, refused, busy } = useAct()

const tests = computed(() => job.data.value?.tests.filter((one) => !one.at_frame) ?? [])
const testId = ref<number | null>(null)
const test = computed(
  () =>
    tests.value.find((one) => one.id === testId.value) ??
    tests.value.find((one) => one.to_go) ??
    tests.value[0] ??
    null,
)
const page = useQuery({
  queryKey: ['method', computed(() => test.value?.method)],
  queryFn: () =>
    ask(
      client.GET('/api/methods/{method_id}', {
        params: { path: { method_id: test.value!.method } },
      }),
    ),
  enabled: computed(() => test.value !== null),
  staleTime: Infinity,
})
const method = computed(() => page.data.value ?? null)
const root = computed(() => (method.value?.readings_schema ?? {}) as Schema)
const fields = computed(() =>
  Object.entries(root.value.properties ?? {}).filter(([name, schema]) => {
    if (['label', 'direction', 'observations'].includes(name)) return false
    if (name === 'state')
      return Boolean(meant(schema, root.value).enum) || Boolean(method.value?.by_document)
    return !name.startsWith('trace')
  }),
)
const typable = computed(
  () =>
    method.value !== null && !(root.value.required ?? []).some((name) => name.startsWith('trace')),
)
const open = computed(() =>
  (test.value?.specimens ?? []).filter((one) => one.called && one.run_id === null && !one.void),
)
const waiting = computed(() =>
  (test.value?.specimens ?? []).filter((one) => one.state === 'to-look-at'),
)
const chosen = ref<string | null>(null)
const entry = reactive<Record<string, unknown>>({})
const newLabel = ref('')
const newDirection = ref<string | null>(null)
const why = ref('')
const looked = ref<SpecimenView | null>(null)
const files = ref<File[]>([])
const told = ref<string[]>([])
const next = computed(() => open.value.find((one) => one.label === chosen.value) ?? open.value[0])
const needsWhy = computed(() => refused.value.includes('deviation'))

watch(
  () => test.value?.id,
  () => clear(),
)
function clear() {
  for (const name of Object.keys(entry)) delete entry[name]
  newLabel.value = ''
}

async function bring(document: unknown, source: string | null, said: string[]) {
  const body: Schemas['ReadingsAsked'] = {
    document: document as Record<string, unknown>,
    source_name: source,
    said,
    deviation: why.value.trim() || null,
  }
  const params = { path: { test_id: test.value!.id } }
  return act(() => ask(client.POST('/api/tests/{test_id}/readings', { params, body })))
}

async function typed() {
  const label = method.value?.by_document ? newLabel.value.trim() : next.value?.label
  const direction = method.value?.by_document ? newDirection.value : null
  const filled = Object.entries(entry).filter(([, value]) => value !== undefined && value !== null)
  const specimen = {
    label: label ?? '',
    ...(direction ? { direction } : {}),
    ...Object.fromEntries(filled),
  }
  if (await bring({ specimens: [specimen] }, null, [])) {
    clear()
    chosen.value = null
  }
}

/** What was chosen is let go of at once: a file that was mended is chosen again under its name. */
async function takeFiles() {
  const picked = files.value
  files.value = []
  told.value = []
  const [first] = picked
  if (!first || !test.value) return
  const source = picked
    .map((one) => one.name)
    .join(', ')
    .slice(0, 200)
  const text = await first.text().catch(() => null)
  if (text === null) {
    refused.value = `${first.name} was changed after it was chosen; choose it again`
  } else if (picked.length === 1 && /^\s*[[{]/.test(text)) {
    try {
      await bring(JSON.parse(text), source, [])
    } catch (error) {
      refused.value = `${first.name} is no JSON: ${(error as Error).message}`
    }
  } else {
    await act(() => takeCsv(picked, source))
  }
}

async function takeCsv(picked: File[], source: string) {
  const form = new FormData()
  form.set('method', test.value!.method)
  for (const file of picked) form.append('files', file)
  const response = await fetch('/api/import', { method: 'POST', body: form })
  const answer = await response.json().catch(() => null)
  if (!response.ok) throw asProblem(response.status, answer)
  const made = answer as Schemas['ImportedView']
  told.value = made.said
  const body: Schemas['ReadingsAsked'] = {
    document: { specimens: made.document.specimens },
    source_name: source,
    said: made.said,
    deviation: why.value.trim() || null,
  }
  const params = { path: { test_id: test.value!.id } }
  await ask(client.POST('/api/tests/{test_id}/readings', { params, body }))
}

const keepAll = () =>
  act(() =>
    ask(
      client.POST('/api/tests/{test_id}/keep', { params: { path: { test_id: test.value!.id } } }),
    ),
  )
const askForOneMore = (direction: string) =>
  act(() =>
    ask(
      client.POST('/api/tests/{test_id}/one-more', {
        params: { path: { test_id: test.value!.id } },
        body: { direction },
      }),
    ),
  )
async function voidOne(code: string, words: string) {
  const params = { path: { specimen_id: looked.value!.id } }
  const body = { code, words }
  if (await act(() => ask(client.POST('/api/specimens/{specimen_id}/void', { params, body }))))
    looked.value = null
}
</script>

<template>
  <FromRecord v-if="!job.data.value" :query="job" />
  <template v-else-if="job.data.value">
    <header class="head">
      <div>
        <p class="mono small quiet">
          <router-link :to="`/jobs/${id}`">{{ job.data.value.number }}</router-link> ·
          {{ job.data.value.product }}
        </p>
        <h1>Bring readings in</h1>
      </div>
      <router-link
        v-if="job.data.value.next_place !== 'readings'"
        class="act"
        :class="{ main: !waiting.length }"
        :to="placeOf(job.data.value.next_place, id)"
        >{{ job.data.value.next_words }}</router-link
      >
    </header>
    <p v-if="tests.length === 0" class="quiet">
      Every test of this job is run at the bench.
      <router-link :to="`/bench/${id}`">Bench</router-link>
    </p>
    <div v-if="tests.length > 1" class="tests" role="tablist">
      <button
        v-for="one in tests"
        :key="one.id"
        role="tab"
        class="act"
        :class="{ on: one.id === test?.id }"
        :aria-selected="one.id === test?.id"
        @click="testId = one.id"
      >
        {{ one.title }} <span class="mono">{{ one.to_go ? `${one.to_go} to go` : 'done' }}</span>
      </button>
    </div>
    <div v-if="test && method" class="halves">
      <section>
        <h2>
          {{ test.title }}
          <router-link class="mono small" :to="`/methods/${test.method}`">{{
            test.method
          }}</router-link>
        </h2>
        <p class="quiet small">
          This method is not run at the bench here. Its figures are computed from what you bring in.
        </p>
        <ul class="cautions small">
          <li v-for="line in method.cautions" :key="line">{{ line }}</li>
        </ul>
        <SetUpLeaf :test="test" />
        <form class="files" @submit.prevent="takeFiles">
          <v-file-input
            v-model="files"
            multiple
            label="A test document (JSON), or CSV files named by label"
            accept=".json,.csv,.txt"
            prepend-icon=""
            :clearable="false"
          />
          <button class="act" :class="{ main: !typable }" :disabled="busy || !files.length">
            Bring in
          </button>
        </form>
        <RefusalNote v-model="refused" />
        <v-text-field
          v-if="needsWhy || why"
          v-model="why"
          label="Why it deviates; the report says it"
        />
        <ul v-if="told.length" class="told small mono">
          <li v-for="line in told" :key="line">{{ line }}</li>
        </ul>
        <form v-if="typable && (method.by_document || next)" class="typed" @submit.prevent="typed">
          <h2>
            Type the readings<template v-if="!method.by_document"> of {{ next?.label }}</template>
          </h2>
          <div class="grid">
            <template v-if="method.by_document">
              <v-text-field v-model="newLabel" label="label" class="mono" />
              <v-select
                v-if="method.directions.length"
                v-model="newDirection"
                :items="method.directions"
                label="direction"
              />
            </template>
            <v-select
              v-else-if="open.length > 1"
              :model-value="next?.label"
              :items="open.map((one) => one.label)"
              label="specimen"
              @update:model-value="chosen = $event"
            />
            <SchemaField
              v-for="[name, schema] in fields"
              :key="`${test.id} ${name}`"
              v-model="entry[name]"
              :name="name"
              :schema="schema"
              :root="root"
              :required="root.required?.includes(name)"
            />
          </div>
          <button class="act main" :disabled="busy">Write it down <kbd>Enter</kbd></button>
        </form>
        <p v-else-if="typable && !waiting.length" class="quiet">Every specimen has its readings.</p>
      </section>
      <section>
        <header class="tally">
          <h2>
            {{ test.wanted - test.to_go }} of {{ test.wanted }}
            <span class="quiet">count</span>
          </h2>
          <button v-if="waiting.length" class="act main" :disabled="busy" @click="keepAll">
            Keep all {{ waiting.length }}
          </button>
        </header>
        <table class="ruled">
          <thead>
            <tr>
              <th>Label</th>
              <th>Works on</th>
              <th class="right">{{ test.rows[0]?.title ?? 'Figure' }}</th>
              <th>State</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="one in test.specimens.filter((one) => one.called || one.run_id || one.void)"
              :key="one.id"
              :class="{ void: one.void }"
            >
              <td class="mono">
                <button v-if="one.run_id" class="plain opens" @click="looked = one">
                  {{ one.label }}
                </button>
                <template v-else>{{ one.label }}</template>
              </td>
              <td>{{ one.works_on || '–' }}</td>
              <td class="mono right">{{ one.value_text ?? '–' }}</td>
              <td>
                <template v-if="one.void">void, {{ one.void.title.toLowerCase() }}</template>
                <template v-else-if="one.state === 'to-look-at'">look at it, then keep</template>
                <template v-else-if="one.state === 'tested'">kept</template>
                <template v-else>{{ one.state.replace('-', ' ') }}</template>
                <p v-for="flag in one.flags" :key="flag.code" class="small flag">{{ flag.text }}</p>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="test.specimens.length === 0" class="quiet">
          The document names its specimens; none are here yet.
        </p>
        <button
          v-for="(count, direction) in test.one_more"
          :key="direction"
          class="act"
          :disabled="busy"
          @click="askForOneMore(String(direction))"
        >
          Ask for one more<template v-if="direction">, {{ direction }}</template>
          <span class="mono">{{ count }} missing</span>
        </button>
        <div v-if="looked && !looked.void && !job.data.value.released" class="leaf">
          <h3>{{ looked.label }}</h3>
          <VoidKeys
            :codes="method.void_codes"
            :busy="busy"
            :quiet="looked.state === 'tested'"
            @void="voidOne"
          />
        </div>
      </section>
    </div>
  </template>
</template>

<style scoped>
.head,
.tally {
  display: flex;
  align-items: center;
  justify-content: space-between;
}

.tests {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 12px;
}

.tests .on {
  border-color: var(--blue);
  box-shadow: inset 0 -4px 0 var(--blue);
}

.halves {
  display: grid;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
  gap: 0 52px;
  margin-top: 14px;
}

section {
  display: grid;
  gap: 14px;
  align-content: start;
}

.cautions {
  margin: 0;
  padding: 8px 14px;
  border-left: 6px solid var(--ochre);
  background: var(--ochre-wash);
  list-style: none;
}

.files {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 12px;
  align-items: center;
}

.typed,
.grid {
  display: grid;
  gap: 12px;
}

.grid {
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
}

.typed > .act {
  justify-self: start;
}

.told {
  margin: 0;
  padding-left: 18px;
}

.flag {
  color: var(--ink-2);
}

.void td:first-child {
  text-decoration: line-through;
}

@media (max-width: 1000px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
    gap: 22px;
  }
}
</style>
