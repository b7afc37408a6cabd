<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { ref, watch } from 'vue'
import ReasonLeaf from '@/ui/ReasonLeaf.vue'
import WorkingSlip from '@/ui/WorkingSlip.vue'

/** What lies over the bench when it is asked for: a working, a reason to depart, a void taken back. */
export interface Departure {
  says: string
  go: (why: string) => void
}
const props = defineProps<{
  label: string
  working: Schemas['WorkingRow'][]
  departing: Departure | null
  filing: Departure | null
}>()
defineEmits<{ takeBack: [reason: string] }>()
const slip = ref(false)
const takeBackOpen = ref(false)
const departure = ref<Departure | null>(null)
const whyOpen = ref(false)
watch([() => props.departing, () => props.filing], (asked) => {
  departure.value = asked.find((each) => each !== null) ?? null
  whyOpen.value = departure.value !== null
})
defineExpose({
  showWorking: () => (slip.value = true),
  askToTakeBack: () => (takeBackOpen.value = true),
})
</script>

<template>
  <WorkingSlip v-model="slip" :title="`${label}, how it came`" :lines="working" />
  <ReasonLeaf
    v-model="whyOpen"
    title="Go on with a deviation?"
    :says="departure?.says ?? ''"
    act="Go on with it"
    @given="departure?.go($event)"
  />
  <ReasonLeaf
    v-model="takeBackOpen"
    :title="`Take the void of ${label} back?`"
    says="The specimen counts again, and the reason stays in the record."
    act="Take it back"
    @given="$emit('takeBack', $event)"
  />
</template>
