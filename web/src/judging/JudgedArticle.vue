<script setup lang="ts">
import { t } from '@/ui/words'
import { signed } from '@/ui/numbers'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import {
  ask,
  client,
  type JudgedRow,
  type SpecimenView,
  type TestView,
  type Schemas,
} from '@/api/client'
import { figuresOf } from '@/judging/figures'
import LimitRule from '@/ui/LimitRule.vue'
import type { Mark } from '@/ui/mark'
import TraceChart from '@/ui/TraceChart.vue'
import VerdictWord from '@/ui/VerdictWord.vue'
import { moment } from '@/ui/dates'
import { named } from '@/ui/phrases'
import ActButton from '@/ui/ActButton.vue'

/** One property in one direction: its rule, its figures, its specimens, and the trace of the one looked at. */
const props = defineProps<{ row: JudgedRow; test: TestView; lookedAt: SpecimenView | null }>()
defineEmits<{
  look: [specimen: SpecimenView]
  working: [title: string, lines: Schemas['WorkingRow'][]]
}>()
const pulled = computed(() =>
  props.test.specimens.filter(
    (specimen) => props.row.labels?.includes(specimen.label) && specimen.run_id !== null,
  ),
)
const run = useQuery({
  queryKey: ['run', computed(() => props.lookedAt?.run_id)],
  queryFn: () =>
    ask(
      client.GET('/api/runs/{run_id}', { params: { path: { run_id: props.lookedAt!.run_id! } } }),
    ),
  enabled: computed(() => props.lookedAt !== null && props.lookedAt.run_id !== null),
  staleTime: Infinity,
})
const curve = computed(() => run.data.value?.curves.at(-1) ?? null)
const under = computed(() => run.data.value?.curves.slice(0, -1) ?? [])
const marks = computed(() => (run.data.value?.result?.marks ?? []) as Mark[])

const workingOf = computed(() => (run.data.value?.result?.working ?? []) as Schemas['WorkingRow'][])
</script>

<template>
  <article>
    <header>
      <h2>{{ named(row) }}</h2>
      <span class="mono">{{ row.limit_text }}</span>
      <VerdictWord
        :verdict="row.verdict"
        :open="row.to_go ? t('judging.to-go', { to_go: row.to_go }) : t('judging.report-only')"
      />
    </header>
    <LimitRule v-if="row.rule" :rule="row.rule" size="page" />
    <p v-if="row.other_school_differs" class="flag">
      {{
        t('judging.close-to-the-limit-compared-the-verdict', {
          part: row.compared ? t('judging.unrounded') : t('judging.as-rounded'),
        })
      }}
    </p>
    <dl v-if="row.summary" class="figures">
      <div v-for="[name, figure] in figuresOf(row)" :key="name">
        <dt>{{ name }}</dt>
        <dd>
          <ActButton kind="plain" class="mono" @click="$emit('working', named(row), row.working)">
            {{ figure }}
          </ActButton>
        </dd>
      </div>
    </dl>
    <ul class="specimens">
      <li v-for="specimen in pulled" :key="specimen.id" :class="{ void: specimen.void }">
        <ActButton
          kind="plain"
          :class="{ on: lookedAt?.id === specimen.id }"
          @click="$emit('look', specimen)"
        >
          <b class="mono">{{ specimen.label }}</b>
          <span v-if="row.property === test.rows[0]?.property" class="mono value">{{
            signed(specimen.value_text ?? '–')
          }}</span>
          <span v-if="specimen.void" class="why">{{
            t('judging.void', { title: specimen.void.title.toLowerCase() })
          }}</span>
          <span v-else-if="specimen.state === 'to-look-at'" class="why">{{
            t('judging.not-accepted-yet')
          }}</span>
          <span v-else-if="specimen.spare && !test.by_rounds" class="why quiet">{{
            t('judging.replacement')
          }}</span>
        </ActButton>
      </li>
    </ul>
    <div v-if="lookedAt" class="trace">
      <TraceChart
        v-if="curve"
        :extension="curve.x"
        :force="curve.y"
        :axes="curve"
        :under="under"
        :marks="marks"
      />
      <p v-if="run.data.value" class="small quiet">
        {{ lookedAt.label }}: {{ run.data.value.by }}, {{ moment(run.data.value.started_at) }}.
        <span v-if="lookedAt.void">{{ lookedAt.void.remark }} ({{ lookedAt.void.by }}).</span>
        <ActButton kind="plain" class="opens" @click="$emit('working', lookedAt.label, workingOf)">
          {{ t('judging.calculation') }}
        </ActButton>
        ·
        <a :href="`/api/runs/${run.data.value.id}/trace.csv`">{{ t('judging.raw-data') }}</a>
      </p>
    </div>
  </article>
</template>

<style scoped>
section > article {
  padding: 16px 0 14px;
  border-bottom: 1px solid var(--hair);
}

article header {
  display: flex;
  gap: 22px;
  align-items: baseline;
}

article header .verdict {
  margin-left: auto;
  font-size: 18px;
}

.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 30px;
  margin: 6px 0 8px;
}

dt {
  color: var(--ink-2);
  font-size: 14px;
}

dd {
  margin: 0;
  font-size: 17px;
}

.figures button {
  min-height: 30px;
  border-bottom: 1.5px dotted var(--ink-3);
}

.figures div:first-child button {
  font-size: 21px;
  font-weight: 700;
}

.figures div:not(:first-child) button {
  padding-top: 4px;
}

.specimens {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}

.specimens button {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 40px;
  padding: 0 11px;
  border: 1.5px solid var(--hair);
  border-radius: 7px;
}

.specimens .on {
  border-color: var(--blue);
}

.void b,
.void .value {
  color: var(--ink-2);
  text-decoration: line-through;
}

.why {
  font-size: 14px;
}

.trace {
  height: 300px;
  margin: 10px 0 26px;
}

.opens {
  color: var(--blue);
  text-decoration: underline dotted;
}

.flag {
  margin: 6px 0;
  padding: 7px 12px;
  border-left: 5px solid var(--tape);
  background: var(--ochre-wash);
}
</style>
