<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import { ref, watch } from 'vue'
import ActButton from '@/ui/ActButton.vue'
import ReasonDialog from '@/ui/ReasonDialog.vue'
import WorkingSlip from '@/ui/WorkingSlip.vue'

/** What lies over the bench when it is asked for: a working, a reason to depart, a void taken back. */
export interface Departure {
  text: string
  go: (why: string) => void
}
const props = defineProps<{
  label: string
  working: Schemas['WorkingRow'][]
  departing: Departure | null
  filing: Departure | null
  suspicions: Schemas['SuspicionView'][]
}>()
const emit = defineEmits<{ takeBack: [reason: string]; accept: [] }>()
const examining = ref(false)
function accept() {
  examining.value = false
  emit('accept')
}
const slip = ref(false)
const takeBackOpen = ref(false)
const departure = ref<Departure | null>(null)
const whyOpen = ref(false)
watch([() => props.departing, () => props.filing], (requested) => {
  departure.value = requested.find((each) => each !== null) ?? null
  whyOpen.value = departure.value !== null
})
defineExpose({
  showWorking: () => (slip.value = true),
  askToTakeBack: () => (takeBackOpen.value = true),
  examine: () => (examining.value = true),
})
</script>

<template>
  <WorkingSlip v-model="slip" :title="t('bench.calculation', { label })" :lines="working" />
  <ReasonDialog
    v-model="whyOpen"
    :title="t('bench.reason-for-the-deviation')"
    :text="departure?.text ?? ''"
    :act="t('bench.continue-with-the-reason')"
    @given="departure?.go($event)"
  />
  <ReasonDialog
    v-model="takeBackOpen"
    :title="t('bench.undo-the-void-of', { label })"
    :text="t('bench.the-specimen-counts-again-the-reason')"
    :act="t('bench.undo-void')"
    @given="$emit('takeBack', $event)"
  />
  <v-dialog v-model="examining" max-width="560">
    <div class="leaf examine">
      <h2>{{ t('bench.examine', { label }) }}</h2>
      <p v-for="odd in suspicions" :key="odd.code" class="suspicion">
        <b>{{ odd.code.replace(/-/g, ' ') }}:</b> {{ odd.text }}
      </p>
      <p class="small quiet">
        {{ t('bench.the-point-is-marked-on-the-curve-close') }}
      </p>
      <footer>
        <ActButton type="button" @click="examining = false">{{
          t('bench.back-to-the-curve')
        }}</ActButton>
        <ActButton type="button" @click="accept">{{ t('bench.accept', { label }) }}</ActButton>
      </footer>
    </div>
  </v-dialog>
</template>

<style scoped>
.examine {
  display: grid;
  gap: 12px;
}

.suspicion {
  padding: 8px 12px;
  border-left: 5px dotted var(--brick);
  background: var(--sunk);
}
</style>
