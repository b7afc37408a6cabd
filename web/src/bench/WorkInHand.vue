<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import type { BenchView } from '@/bench/bench'
import ActButton from '@/ui/ActButton.vue'
import { signed } from '@/ui/numbers'
import RuledTable from '@/ui/RuledTable.vue'
import SpecimenDrawing from '@/ui/SpecimenDrawing.vue'

/**
 * Beside a procedure without a curve: the specimen, the steps of the method, and the specimens of the test
 * with their results so far.
 */
const props = defineProps<{ test: Schemas['TestView']; view: BenchView; inHand: number | null }>()
defineEmits<{ pick: [id: number] }>()
const MAX_ROWS = 12
const method = useQuery({
  queryKey: ['method', computed(() => props.test.method)],
  queryFn: () =>
    ask(
      client.GET('/api/methods/{method_id}', {
        params: { path: { method_id: props.test.method } },
      }),
    ),
  staleTime: Infinity,
})
const STATES: Record<string, string> = {
  'to-cut': t('bench.to-be-cut'),
  'to-look-at': t('bench.to-be-reviewed'),
}
const inWords = (state: string) => STATES[state] ?? state
/** The specimens around the one in hand: what was tested before it, and what comes after. */
const shown = computed(() => {
  const called = props.test.specimens.filter((each) => each.called || each.run_id !== null)
  const place = Math.max(
    called.findIndex((each) => each.id === props.inHand),
    0,
  )
  const from = Math.min(Math.max(place - MAX_ROWS / 2, 0), Math.max(called.length - MAX_ROWS, 0))
  return called.slice(from, from + MAX_ROWS)
})
</script>

<template>
  <div class="hand">
    <section v-if="method.data.value?.cut" class="cut">
      <h3>{{ t('bench.specimen-2') }}</h3>
      <SpecimenDrawing :cut="method.data.value.cut" />
      <p class="small quiet">{{ method.data.value.cut.size_text }}</p>
    </section>
    <section v-if="method.data.value" class="steps-of">
      <h3>{{ t('bench.procedure') }}</h3>
      <ol class="steps small">
        <li v-for="line in method.data.value.steps" :key="line">{{ line }}</li>
      </ol>
    </section>
    <section>
      <h3>{{ t('bench.specimens-of-this-test') }}</h3>
      <RuledTable dense>
        <tbody>
          <tr v-for="each in shown" :key="each.id" :class="{ here: each.id === inHand }">
            <td class="mono">
              <ActButton kind="plain" type="button" class="mono" @click="$emit('pick', each.id)">{{
                each.label
              }}</ActButton>
            </td>
            <td class="mono right figure" :class="{ struck: each.void }">
              {{ each.value_text ? `${signed(each.value_text)} ${view.figure_unit}` : '' }}
            </td>
            <td class="small quiet">{{ each.void ? t('bench.void-4') : inWords(each.state) }}</td>
          </tr>
        </tbody>
      </RuledTable>
    </section>
  </div>
</template>

<style scoped>
.hand {
  display: flex;
  flex-wrap: wrap;
  gap: 14px 30px;
  margin: 14px 0;
  padding-top: 12px;
  border-top: 1px solid var(--hair);
}

section {
  flex: 1 1 210px;
  min-width: 0;
}

.steps-of {
  flex-grow: 2;
}

.cut {
  flex: 0 1 170px;
}

.cut :deep(svg) {
  width: 100%;
  max-height: 220px;
}

h3 {
  margin-bottom: 6px;
}

.steps {
  margin: 0;
  padding-left: 20px;
}

.steps li {
  padding: 2px 0;
}

.figure {
  white-space: nowrap;
}

.here td {
  background: var(--blue-wash);
}

.struck {
  text-decoration: line-through;
}
</style>
