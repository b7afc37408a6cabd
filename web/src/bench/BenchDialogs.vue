<script setup lang="ts">
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
  <WorkingSlip v-model="slip" :title="`${label}, calculation`" :lines="working" />
  <ReasonDialog
    v-model="whyOpen"
    title="Reason for the deviation"
    :text="departure?.text ?? ''"
    act="Continue with the reason"
    @given="departure?.go($event)"
  />
  <ReasonDialog
    v-model="takeBackOpen"
    :title="`Undo the void of ${label}`"
    text="The specimen counts again. The reason stays in the audit trail."
    act="Undo void"
    @given="$emit('takeBack', $event)"
  />
  <v-dialog v-model="examining" max-width="560">
    <div class="leaf examine">
      <h2>Examine {{ label }}</h2>
      <p v-for="odd in suspicions" :key="odd.code" class="suspicion">
        <b>{{ odd.code.replace(/-/g, ' ') }}:</b> {{ odd.text }}
      </p>
      <p class="small quiet">
        The point is marked on the curve. Close this dialog to zoom into the curve or to void the
        specimen.
      </p>
      <footer>
        <ActButton type="button" @click="examining = false">Back to the curve</ActButton>
        <ActButton type="button" @click="accept">Accept {{ label }}</ActButton>
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
