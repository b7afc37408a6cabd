<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import NonconformityForm from '@/office/NonconformityForm.vue'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import ReasonDialog from '@/ui/ReasonDialog.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import RuledTable from '@/ui/RuledTable.vue'
import { dayOf } from '@/ui/dates'

/** One nonconformity or complaint: what it concerns, what it affects, and what is done about it. */
const props = defineProps<{ id: number }>()
const queries = useQueryClient()
const path = computed(() => ({ path: { nonconformity_id: props.id } }))
const query = useQuery({
  queryKey: ['nonconformity', computed(() => props.id)],
  queryFn: () => ask(client.GET('/api/nonconformities/{nonconformity_id}', { params: path.value })),
})
const page = computed(() => query.data.value)
const { act, refused, busy } = useAct()
const changing = ref(false)
const closing = ref(false)
const close = (remark: string) =>
  act(async () => {
    const body = { remark, revision: page.value!.revision }
    const after = await ask(
      client.POST('/api/nonconformities/{nonconformity_id}/close', { params: path.value, body }),
    )
    queries.setQueryData(['nonconformity', props.id], after)
  })
</script>

<template>
  <FromRecord v-if="!page" :query="query" />
  <NonconformityForm
    v-else-if="changing"
    :from="page"
    @saved="changing = false"
    @leave="changing = false"
  />
  <article v-else>
    <header>
      <div>
        <h2>{{ page.title }}</h2>
        <p class="quiet">
          <span class="mono">{{ page.number }}</span> ·
          {{ page.kind === 'complaint' ? t('office.complaint') : t('office.nonconformity') }} ·
          <b v-if="page.closed_at">{{
            t('office.closed-on', { day: dayOf(page.closed_at), by: page.closed_by })
          }}</b>
          <b v-else class="waits">{{ t('office.open') }}</b>
        </p>
      </div>
      <div class="acts">
        <ActButton v-if="page.may_change" @click="changing = true">{{
          t('office.cause-and-action')
        }}</ActButton>
        <ActButton v-if="page.may_close" :disabled="busy" @click="closing = true">{{
          t('office.close')
        }}</ActButton>
      </div>
    </header>
    <RefusalNote v-model="refused" />
    <dl>
      <dt>{{ t('office.opened') }}</dt>
      <dd>
        {{ dayOf(page.opened_at) }}, {{ page.opened_by
        }}<template v-if="page.source === 'check'">, {{ t('office.by-a-failed-check') }}</template>
      </dd>
      <template v-if="page.job_id">
        <dt>{{ t('office.job') }}</dt>
        <dd>
          <router-link class="mono" :to="`/jobs/${page.job_id}`">{{ page.job_number }}</router-link>
        </dd>
      </template>
      <template v-if="page.serial">
        <dt>{{ t('office.instrument') }}</dt>
        <dd>
          <router-link class="mono" :to="`/instruments?serial=${page.serial}`">{{
            page.serial
          }}</router-link>
        </dd>
      </template>
      <dt>{{ t('office.responsible') }}</dt>
      <dd>{{ page.owner ?? t('office.nobody-yet') }}</dd>
      <dt>{{ t('office.due') }}</dt>
      <dd :class="{ late: page.overdue }">
        {{ page.due_at ? dayOf(page.due_at) : t('office.no-day-set') }}
      </dd>
      <template v-if="page.description">
        <dt>{{ t('office.description') }}</dt>
        <dd class="lines">{{ page.description }}</dd>
      </template>
      <dt>{{ t('office.cause') }}</dt>
      <dd class="lines">{{ page.cause || t('office.not-known-yet') }}</dd>
      <dt>{{ t('office.action') }}</dt>
      <dd class="lines">{{ page.action || t('office.none-yet') }}</dd>
      <template v-if="page.closing">
        <dt>{{ t('office.how-it-was-checked') }}</dt>
        <dd class="lines">{{ page.closing }}</dd>
      </template>
    </dl>
    <section v-if="page.affected.length">
      <h3>{{ t('office.affected-results') }}</h3>
      <RuledTable dense>
        <tbody>
          <tr v-for="each in page.affected" :key="`${each.job_id} ${each.method}`">
            <td class="mono number">
              <router-link :to="`/jobs/${each.job_id}`">{{ each.number }}</router-link>
            </td>
            <td>{{ each.product }}, {{ each.client }}</td>
            <td>{{ each.method }}</td>
            <td class="mono">{{ each.labels }}</td>
            <td :class="{ late: each.released }">
              {{ each.released ? t('office.report-released') : t('office.not-released-yet') }}
            </td>
          </tr>
        </tbody>
      </RuledTable>
    </section>
    <ReasonDialog
      v-model="closing"
      :title="t('office.close-number', { number: page.number })"
      :text="t('office.say-how-the-action-was-checked')"
      :act="t('office.close')"
      @given="close"
    />
  </article>
</template>

<style scoped src="./pane.css"></style>
<style scoped>
.number {
  white-space: nowrap;
}
</style>
