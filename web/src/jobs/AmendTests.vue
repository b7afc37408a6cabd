<script setup lang="ts">
import { t } from '@/ui/words'
import { reactive, ref, watch } from 'vue'
import { ask, client, type JobView, type TestView } from '@/api/client'
import { useMethods } from '@/api/queries'
import { useSession } from '@/app/session'
import ActButton from '@/ui/ActButton.vue'
import { figureFrom } from '@/ui/numbers'
import { offerUndo } from '@/ui/undo'

/** The tests of a job, to be held, dropped, counted otherwise, and one more. */
const props = defineProps<{ job: JobView; reason: string; busy: boolean }>()
const { me } = useSession()
const emit = defineEmits<{ change: [work: () => Promise<unknown>] }>()
const methods = useMethods()
const added = ref<string | null>(null)
const counts = reactive<Record<number, string>>({})
const requested = (test: TestView) => Number(test.parameters.specimens_wanted ?? 0)
watch(
  () => props.job.revision,
  () => {
    for (const test of props.job.tests) counts[test.id] = String(requested(test))
  },
  { immediate: true },
)
const why = (revision: number) => ({ revision, reason: props.reason })
const path = (test: TestView) => ({ params: { path: { test_id: test.id } } })

function add() {
  const body = {
    test: { method: added.value!, parameters: {}, limits: [], state: 'original' as const },
    ...why(props.job.revision),
  }
  const params = { path: { job_id: props.job.id } }
  emit('change', async () => {
    await ask(client.POST('/api/jobs/{job_id}/tests', { params, body }))
    added.value = null
  })
}
const drop = (test: TestView) =>
  emit('change', () =>
    ask(client.POST('/api/tests/{test_id}/cancel', { ...path(test), body: why(test.revision) })),
  )
const hold = (test: TestView) =>
  emit('change', async () => {
    const answer = { ...path(test), body: why(test.revision) }
    if (!test.held) return ask(client.POST('/api/tests/{test_id}/hold', answer))
    const { reason } = props
    const resumed = await ask(client.POST('/api/tests/{test_id}/resume', answer))
    const revision = resumed.tests.find((each) => each.id === test.id)?.revision
    if (revision !== undefined)
      offerUndo(t('jobs.resumed', { title: test.title }), () =>
        ask(
          client.POST('/api/tests/{test_id}/hold', { ...path(test), body: { revision, reason } }),
        ),
      )
    return resumed
  })
const again = (test: TestView) =>
  emit('change', () =>
    ask(client.POST('/api/tests/{test_id}/retest', { ...path(test), body: why(test.revision) })),
  )
function recount(test: TestView) {
  const parameters = { specimens_wanted: figureFrom(counts[test.id] ?? '') }
  const body = { parameters, ...why(test.revision) }
  emit('change', () => ask(client.PUT('/api/tests/{test_id}', { ...path(test), body })))
}
</script>

<template>
  <div>
    <h3>{{ t('jobs.tests') }}</h3>
    <div v-for="test in job.tests" :key="test.id" class="test">
      <p>
        {{ test.title }} <span class="mono small quiet">{{ test.method }}</span>
        <b v-if="test.held" class="held"> {{ t('jobs.on-hold', { held: test.held }) }}</b>
      </p>
      <form class="count" @submit.prevent="recount(test)">
        <v-text-field
          v-model="counts[test.id]"
          class="mono short"
          density="compact"
          single-line
          :aria-label="t('jobs.number-of-specimens', { title: test.title })"
        />
        <ActButton
          kind="link"
          class="small"
          :disabled="busy || !reason.trim() || counts[test.id] === String(requested(test))"
        >
          {{ t('jobs.per-direction') }}
        </ActButton>
      </form>
      <ActButton kind="link" class="small" :disabled="busy || !reason.trim()" @click="hold(test)">
        {{ test.held ? t('jobs.resume') : t('jobs.hold') }}
      </ActButton>
      <ActButton
        kind="link"
        class="small"
        :disabled="busy || !reason.trim() || job.tests.length < 2"
        @click="drop(test)"
      >
        {{ t('jobs.drop') }}
      </ActButton>
      <ActButton
        v-if="me?.may.includes('release')"
        kind="link"
        class="small"
        :disabled="busy || !reason.trim() || test.to_go > 0"
        @click="again(test)"
      >
        {{ t('jobs.retest') }}
      </ActButton>
    </div>
    <form class="adding" @submit.prevent="add">
      <v-autocomplete
        v-model="added"
        :label="t('jobs.add-test')"
        :items="
          (methods.data.value ?? []).map((each) => ({
            value: each.id,
            title: `${each.title}, ${each.id}`,
          }))
        "
      />
      <ActButton :disabled="busy || !reason.trim() || !added">{{ t('jobs.add-test') }}</ActButton>
    </form>
  </div>
</template>

<style scoped>
.test {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto auto auto;
  gap: 18px;
  align-items: baseline;
  padding: 6px 0;
  border-top: 1px solid var(--hair);
}

.link:disabled {
  color: var(--ink-3);
}

.count {
  display: flex;
  gap: 8px;
  align-items: baseline;
}

.adding {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 12px;
  align-items: center;
  margin-top: 8px;
}

.held {
  color: var(--ochre);
}
</style>
