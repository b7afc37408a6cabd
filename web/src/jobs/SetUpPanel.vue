<script setup lang="ts">
import { t } from '@/ui/words'
import ActButton from '@/ui/ActButton.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { ask, client, type Schemas, type TestView } from '@/api/client'
import { fieldWords, valueOf, meant, writtenValue, type Schema } from '@/jobs/schema'
import { useAct } from '@/api/queries'
import MovesField from '@/jobs/MovesField.vue'
import { dayOf } from '@/ui/dates'
import RefusalNote from '@/ui/RefusalNote.vue'
import DraftNote from '@/ui/DraftNote.vue'
import { useDraft } from '@/ui/drafts'

/** What exists only at the bench: the pendulum, its friction, the cut interval, the load cell. */
const props = defineProps<{ test: TestView }>()
const { act, refused, busy } = useAct()
const page = useQuery({
  queryKey: ['method', computed(() => props.test.method)],
  queryFn: () =>
    ask(
      client.GET('/api/methods/{method_id}', {
        params: { path: { method_id: props.test.method } },
      }),
    ),
  staleTime: Infinity,
})
const schema = computed(() => (page.data.value?.parameters_schema ?? {}) as Schema)
const fields = computed(() =>
  (props.test.set_up ?? []).filter((name) => schema.value.properties?.[name]),
)
const missing = computed(() => props.test.set_up_missing ?? [])
const typed = reactive<Record<string, string>>({})
const moves = computed({
  get: () => typed.moves ?? '',
  set: (text: string) => (typed.moves = text),
})
const reason = ref('')
const open = ref(false)
const counts = computed(() => props.test.specimens.some((specimen) => specimen.state === 'tested'))

const shown = (name: string) => {
  const value = props.test.parameters[name]
  return Array.isArray(value) ? value.join(' ') : writtenValue(value)
}
/** A sequence by its name, or its first move. */
const inALine = (name: string) => shown(name).split('\n')[0]!.replace(/^#\s*/, '')
watch(
  () => [props.test.revision, fields.value.join()],
  () => {
    for (const name of fields.value) typed[name] = shown(name)
  },
  { immediate: true },
)
const draft = useDraft(
  () => `set-up/${props.test.id}`,
  () => ({ typed, reason: reason.value }),
  (kept) => {
    Object.assign(typed, kept.typed)
    reason.value = kept.reason
    open.value = true
  },
)
watch(() => [props.test.id, props.test.revision, fields.value.join()].join(), draft.begin, {
  immediate: true,
})

/** What was set up for the same method before, at each station: taken over with one press. */
const earlier = useQuery({
  queryKey: ['set-up', computed(() => props.test.id), computed(() => props.test.revision)],
  queryFn: () =>
    ask(
      client.GET('/api/tests/{test_id}/set-up/earlier', {
        params: { path: { test_id: props.test.id } },
      }),
    ),
  enabled: computed(() => fields.value.length > 0),
})
const offered = computed(() =>
  (earlier.data.value ?? []).filter((set) =>
    Object.entries(set.parameters).some(
      ([name, value]) => typed[name] !== (Array.isArray(value) ? value.join(' ') : String(value)),
    ),
  ),
)
function takeOver(set: Schemas['EarlierSetUp']) {
  for (const [name, value] of Object.entries(set.parameters))
    typed[name] = Array.isArray(value) ? value.join(' ') : String(value)
}

async function save() {
  const changed = fields.value.filter((name) => (typed[name] ?? '') !== shown(name))
  const parameters = Object.fromEntries(
    changed.map((name) => [
      name,
      valueOf(typed[name] ?? '', meant(schema.value.properties![name]!, schema.value)) ?? null,
    ]),
  )
  const body = { parameters, revision: props.test.revision, reason: reason.value }
  const params = { path: { test_id: props.test.id } }
  if (await act(() => ask(client.PUT('/api/tests/{test_id}/set-up', { params, body })))) {
    draft.saved()
    open.value = false
  }
}
</script>

<template>
  <section v-if="fields.length" class="set-up">
    <p v-if="!open && !missing.length">
      <b>{{ t('jobs.set-up') }}</b>
      <span v-for="name in fields.filter(shown)" :key="name" class="mono">
        {{ fieldWords(name) }} {{ inALine(name) }}
      </span>
      <ActButton type="button" kind="plain" class="opens" @click="open = true">{{
        t('jobs.change-2')
      }}</ActButton>
    </p>
    <form v-else @submit.prevent="save">
      <h2>{{ t('jobs.bench-set-up') }}</h2>
      <p v-if="missing.length" class="small">
        {{
          t('jobs.required-before-a-result-can-be', { missing: missing.map(fieldWords).join('; ') })
        }}
      </p>
      <p v-for="set in offered" :key="set.station" class="small">
        <i18n-t keypath="jobs.was-last-set-up-for" scope="global"
          ><template #station>{{ set.station || t('jobs.here') }}</template
          ><template #job
            ><span class="mono">{{ set.job_number }}</span></template
          ><template #day>{{ dayOf(set.at) }}</template></i18n-t
        >
        <ActButton type="button" kind="link" @click="takeOver(set)">{{
          t('jobs.use-these-values')
        }}</ActButton>
      </p>
      <div class="fields">
        <v-text-field
          v-for="name in fields.filter((field) => field !== 'moves')"
          :key="name"
          v-model="typed[name]"
          class="mono"
          :label="fieldWords(name)"
          :hint="schema.properties?.[name]?.description"
          persistent-hint
        />
      </div>
      <MovesField
        v-if="fields.includes('moves')"
        v-model="moves"
        :gauge-mm="Number(test.parameters.gauge_length_mm) || 100"
      />
      <v-text-field
        v-if="counts"
        v-model="reason"
        :label="t('jobs.specimens-already-count-reason-for-the')"
        maxlength="300"
      />
      <DraftNote :draft="draft" />
      <RefusalNote v-model="refused" />
      <ActButton :disabled="busy">{{ t('jobs.save-set-up') }}</ActButton>
    </form>
  </section>
</template>

<style scoped>
.set-up p {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  align-items: baseline;
}

.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
  gap: 10px 16px;
  margin: 8px 0 12px;
}
</style>
