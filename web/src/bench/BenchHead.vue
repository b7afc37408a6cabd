<script setup lang="ts">
import { computed } from 'vue'
import type { TestView } from '@/api/client'
import SpecimenSlip from '@/ui/SpecimenSlip.vue'
import ActButton from '@/ui/ActButton.vue'

/** Which test of which job is at the bench, and its specimens as a row of slips. */
const props = defineProps<{ test: TestView; tests: TestView[]; inHand: number | null }>()
defineEmits<{ pick: [specimenId: number]; test: [testId: number] }>()
const groups = computed(() => {
  const directions = [...new Set(props.test.specimens.map((specimen) => specimen.direction))]
  return directions.map((direction) =>
    props.test.specimens.filter((specimen) => specimen.direction === direction),
  )
})
</script>

<template>
  <header>
    <div class="what">
      <p class="mono small quiet">
        <router-link :to="`/jobs/${test.job_id}`">{{ test.job_number }}</router-link> ·
        <template v-if="tests.length < 2">{{ test.method }}</template>
        <ActButton
          v-for="other in tests.length < 2 ? [] : tests"
          :key="other.id"
          kind="plain"
          class="mono other"
          :aria-pressed="other.id === test.id"
          :class="{ on: other.id === test.id }"
          @click="$emit('test', other.id)"
        >
          {{ other.method }}
        </ActButton>
      </p>
      <h1>{{ test.title }}</h1>
      <p class="small">{{ test.job_product }}</p>
    </div>
    <div class="slips">
      <template v-for="(group, place) in groups" :key="place">
        <i v-if="place" class="gap" />
        <SpecimenSlip
          v-for="specimen in group"
          :key="specimen.id"
          :specimen="specimen"
          :shape="test.shape"
          :in-hand="specimen.id === inHand"
          @click="$emit('pick', specimen.id)"
        />
      </template>
    </div>
  </header>
</template>

<style scoped>
header {
  display: flex;
  grid-column: 1 / -1;
  gap: 24px;
  align-items: start;
  justify-content: space-between;
  min-width: 0;
}

.what {
  flex: 0 1 300px;
}

.other {
  margin-right: 8px;
  text-decoration: underline;
  text-underline-offset: 3px;
}

.other.on {
  color: var(--ink);
  font-weight: 700;
  text-decoration: none;
}

h1 {
  font-size: 23px;
}

.slips {
  display: flex;
  min-width: 0;
  padding: 7px 8px 5px;
  overflow-x: auto;
  border-radius: 8px;
  background: var(--ground);
}

.gap {
  flex: 0 0 18px;
}

@media (max-width: 1100px) {
  header {
    display: grid;
    gap: 8px;
  }

  .what {
    display: flex;
    gap: 14px;
    align-items: baseline;
  }
}
</style>
