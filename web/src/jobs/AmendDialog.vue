<script setup lang="ts">
import { t } from '@/ui/words'
import { vFocus } from '@/ui/focus'
import { computed, reactive, ref, watch } from 'vue'
import { ask, client, type JobView } from '@/api/client'
import { useAct } from '@/api/queries'
import AmendTests from '@/jobs/AmendTests.vue'
import ActButton from '@/ui/ActButton.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import DateField from '@/ui/DateField.vue'
import DraftNote from '@/ui/DraftNote.vue'
import { useDraft } from '@/ui/drafts'

/** Changes to a job after it was written down; each asks why, and the record keeps it. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ job: JobView }>()
const { act, refused, busy } = useAct()
const typed = reactive({
  client: '',
  product: '',
  lot: '',
  material: '',
  due: '',
  order_number: '',
  client_reference: '',
  client_remark: '',
  shelf: '',
  urgent: false,
})
const reason = ref('')
watch(
  [open, () => props.job.revision],
  () => {
    const { client, product, lot, material, client_remark, shelf, priority } = props.job
    const { order_number, client_reference } = props.job
    Object.assign(typed, { client, product, lot, material, client_remark, shelf })
    Object.assign(typed, { order_number, client_reference })
    typed.due = props.job.due_at
    typed.urgent = priority > 0
  },
  { immediate: true },
)
const draft = useDraft(
  () => `job/${props.job.id}`,
  () => ({ typed, reason: reason.value }),
  (kept) => {
    Object.assign(typed, kept.typed)
    reason.value = kept.reason
  },
)
watch(open, (isOpen) => isOpen && draft.begin(), { flush: 'post', immediate: true })
watch(open, (isOpen) => !isOpen && draft.end(), { flush: 'sync' })
const why = () => ({ revision: props.job.revision, reason: reason.value })
async function done(work: () => Promise<unknown>) {
  await act(async () => {
    await work()
    reason.value = ''
    draft.saved()
  })
}
const ofJob = computed(() => ({ params: { path: { job_id: props.job.id } } }))
const keep = () =>
  done(() => {
    const { client: by, product, lot, material, client_remark, shelf, urgent } = typed
    const body = {
      client: by,
      product,
      lot,
      material,
      client_remark,
      shelf,
      order_number: typed.order_number,
      client_reference: typed.client_reference,
      due_at: typed.due,
      priority: urgent ? 1 : 0,
      ...why(),
    }
    return ask(client.PUT('/api/jobs/{job_id}', { ...ofJob.value, body }))
  })
function leave() {
  draft.discard()
  open.value = false
}
const cancel = () =>
  done(() =>
    props.job.cancelled
      ? ask(client.POST('/api/jobs/{job_id}/reinstate', { ...ofJob.value, body: why() }))
      : ask(client.POST('/api/jobs/{job_id}/cancel', { ...ofJob.value, body: why() })),
  )
</script>

<template>
  <v-dialog v-model="open" max-width="860" scrollable>
    <section class="leaf">
      <h2>{{ t('jobs.change', { number: job.number }) }}</h2>
      <v-text-field
        v-model="reason"
        v-focus
        :label="t('jobs.reason-required-for-every-change-below')"
        maxlength="300"
      />
      <DraftNote :draft="draft" />
      <RefusalNote v-model="refused" />
      <form v-if="!job.cancelled" @submit.prevent="keep">
        <div class="fields">
          <v-text-field v-model="typed.client" :label="t('jobs.client')" />
          <v-text-field v-model="typed.product" :label="t('jobs.product')" />
          <v-text-field v-model="typed.lot" class="mono" :label="t('jobs.lot')" />
          <v-text-field v-model="typed.material" :label="t('jobs.material')" />
          <DateField v-model="typed.due" with-time :label="t('jobs.due')" />
          <v-text-field v-model="typed.shelf" :label="t('jobs.storage-location')" />
          <v-text-field
            v-model="typed.order_number"
            :label="t('jobs.order-number')"
            maxlength="60"
          />
          <v-text-field
            v-model="typed.client_reference"
            :label="t('jobs.clients-reference')"
            maxlength="60"
          />
        </div>
        <v-text-field
          v-model="typed.client_remark"
          :label="t('jobs.clients-remarks')"
          maxlength="500"
        />
        <v-checkbox v-model="typed.urgent" :label="t('jobs.high-priority')" />
        <ActButton :disabled="busy || !reason.trim() || !typed.due">{{
          t('jobs.save-changes')
        }}</ActButton>
      </form>
      <AmendTests v-if="!job.cancelled" :job="job" :reason="reason" :busy="busy" @change="done" />
      <footer>
        <ActButton type="button" :disabled="busy || !reason.trim()" @click="cancel">
          {{ job.cancelled ? t('jobs.undo-cancellation') : t('jobs.cancel-job') }}
        </ActButton>
        <ActButton kind="main" type="button" @click="leave">{{ t('jobs.close') }}</ActButton>
      </footer>
    </section>
  </v-dialog>
</template>

<style scoped>
.leaf,
form {
  display: grid;
  gap: 12px;
}

.leaf {
  overflow: auto;
}

.fields {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 10px 14px;
}

form .act {
  justify-self: start;
}

footer {
  display: flex;
  justify-content: space-between;
}
</style>
