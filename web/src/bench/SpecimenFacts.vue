<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { Schemas, SpecimenView } from '@/api/client'
import { useNow } from '@/app/clock'
import ActButton from '@/ui/ActButton.vue'
import { stretch } from '@/ui/phrases'

/** What is in hand: how it lies, what it waits for, its void or its flags. */
const props = defineProps<{
  specimen: SpecimenView
  backTo: SpecimenView | null
  waits: string
  remarks: string[]
  suspicions: Schemas['SuspicionView'][]
  released: boolean
}>()
defineEmits<{ back: []; takeBack: [] }>()
const now = useNow()
const conditioning = computed(() => {
  const { state, ready_at, label } = props.specimen
  if (state !== 'conditioning' || !ready_at) return ''
  return t('bench.has-of-its-conditioning-to-go', {
    label,
    stretch: stretch(Date.parse(ready_at) - now.value),
  })
})
</script>

<template>
  <p class="fact">
    <span class="mono">{{ specimen.label }}</span><template
      v-if="specimen.direction && specimen.long_side"
    >
      {{ t('bench.long-side-along-the', { long_side: specimen.long_side }) }}</template
    ><br />
    <strong>{{ specimen.works_on }}</strong>
  </p>
  <p v-if="backTo" class="small">
    <ActButton kind="link" @click="$emit('back')">
      {{ t('bench.back-to-the-next-specimen', { label: backTo.label }) }}
    </ActButton>
  </p>
  <p v-if="conditioning" class="flag">{{ conditioning }}</p>
  <p v-if="waits" class="quiet">{{ waits }}</p>
  <template v-if="specimen.void">
    <h2>{{ t('bench.void-3', { title: specimen.void.title.toLowerCase() }) }}</h2>
    <p>{{ specimen.void.remark }}. {{ specimen.void.by }}</p>
    <ActButton v-if="!released" @click="$emit('takeBack')">{{ t('bench.undo-void') }}</ActButton>
  </template>
  <template v-else>
    <p v-for="flag in specimen.flags" :key="flag.code" class="flag">{{ flag.text }}</p>
    <p v-for="odd in suspicions" :key="odd.code" class="suspicion">
      <b>{{ odd.code.replace(/-/g, ' ') }}?</b> {{ odd.text }}
    </p>
    <p v-for="remark in remarks" :key="remark" class="flag">{{ remark }}</p>
  </template>
</template>

<style scoped>
.fact strong {
  font-size: 19px;
}

.flag {
  padding: 7px 12px;
  border-left: 5px solid var(--tape);
  background: var(--ochre-wash);
}

.suspicion {
  padding: 7px 12px;
  border-left: 5px dotted var(--brick);
  background: var(--sunk);
}
</style>
