<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, reactive, ref, watch } from 'vue'
import { ask, client, type JudgedRow, type TestView } from '@/api/client'
import LimitField from '@/jobs/LimitField.vue'
import { kindsFor, limitFrom, typedFrom, type LimitTyped } from '@/jobs/limits'
import { useAct, useMethods } from '@/api/queries'
import { named } from '@/ui/phrases'
import { useDraft } from '@/ui/drafts'
import FormDialog from '@/ui/FormDialog.vue'

/** Changing the limits of a test, until it is released. */
const props = defineProps<{ test: TestView }>()
const open = defineModel<boolean>({ required: true })
const { act, refused, busy } = useAct()
const methods = useMethods()
const limits = reactive<Record<string, LimitTyped>>({})
let seen = 0
const reason = ref('')
const draft = useDraft(
  () => `limits/${props.test.id}`,
  () => ({ limits, reason: reason.value, seen }),
  (typed) => {
    Object.assign(limits, typed.limits)
    reason.value = typed.reason
    seen = typed.seen
  },
)
/** Once something has been tested, other limits are a deviation and need a reason. */
const tested = computed(() => props.test.specimens.some((specimen) => specimen.run_id !== null))

interface Row {
  property: string
  direction: string
  title: string
  group: string
  unit: string
  criterion: JudgedRow['criterion']
  guard?: JudgedRow['guard']
}
/** One row for each property and direction; before there are any, those that the method gives. */
const rows = computed<Row[]>(() => {
  const byKey = new Map<string, Row>()
  const shown: Row[] = props.test.rows.map((row) => ({ ...row, group: row.direction }))
  const method = methods.data.value?.find((known) => known.id === props.test.method)
  const requested: Row[] = (method?.properties ?? []).map((known) => ({
    property: known.name,
    direction: '',
    title: known.title,
    group: '',
    unit: known.unit,
    criterion: null,
  }))
  for (const row of shown.length ? shown : requested) {
    const key = keyOf(row)
    if (!byKey.has(key)) byKey.set(key, row)
  }
  return [...byKey.values()]
})
const keyOf = (row: { property: string; direction: string }) => `${row.property} ${row.direction}`
const statisticOf = (row: Row) =>
  methods.data.value
    ?.find((known) => known.id === props.test.method)
    ?.properties.find((known) => known.name === row.property)?.statistic ?? 'mean'

watch(open, (now) => {
  if (!now) return
  refused.value = ''
  reason.value = ''
  seen = props.test.revision
  for (const row of rows.value)
    limits[keyOf(row)] = typedFrom(row.criterion, kindsFor(statisticOf(row), row.unit)[0]!)
})

async function save() {
  const requested = rows.value.map((row) => {
    const limit = limitFrom(row.property, row.direction, limits[keyOf(row)])
    return limit && { ...limit, guard: row.guard ?? null }
  })
  const body = {
    revision: seen,
    limits: requested.filter((known) => known !== null),
    reason: reason.value.trim() || null,
  }
  const params = { path: { test_id: props.test.id } }
  if (await act(() => ask(client.PUT('/api/tests/{test_id}/limits', { params, body })))) {
    draft.saved()
    open.value = false
  }
}
</script>

<template>
  <FormDialog
    v-model="open"
    v-model:refused="refused"
    :draft="draft"
    :title="t('jobs.limits-of', { title: test.title.toLowerCase() })"
    :action="t('jobs.save-limits')"
    :wide="560"
    :disabled="busy || (tested && !reason.trim())"
    @confirm="save"
  >
    <p class="quiet small">
      {{ t('jobs.results-are-rounded-to-the-last-digit') }}
    </p>
    <template v-for="row in rows" :key="keyOf(row)">
      <LimitField
        v-if="limits[keyOf(row)]"
        v-model="limits[keyOf(row)]!"
        :label="
          rows.some((other) => other.property !== row.property)
            ? named(row)
            : row.group || row.title
        "
        :statistic="statisticOf(row)"
        :unit="row.unit"
      />
    </template>
    <template v-if="tested">
      <p class="small">
        {{ t('jobs.specimens-are-already-tested-the-report') }}
      </p>
      <v-text-field v-model="reason" :label="t('jobs.reason-for-the-change')" maxlength="300" />
    </template>
  </FormDialog>
</template>
