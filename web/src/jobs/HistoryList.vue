<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { clockTime, dayOf, isoDay } from '@/ui/dates'

/** The events of a job, the latest day first. */
const props = defineProps<{ events: Schemas['JobView']['events'] }>()
const days = computed(() => {
  const groups: { day: string; title: string; events: typeof props.events }[] = []
  for (const event of props.events) {
    const day = isoDay(new Date(event.at))
    const last = groups.at(-1)
    if (last?.day === day) last.events.push(event)
    else groups.push({ day, title: dayOf(event.at), events: [event] })
  }
  return groups
})
</script>

<template>
  <section v-for="group in days" :key="group.day">
    <h4 class="small quiet">{{ group.title }}</h4>
    <ol>
      <li v-for="event in group.events" :key="event.at + event.text">
        <span class="mono quiet small">{{ clockTime(event.at) }}</span>
        <span>{{ event.text }}</span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
h4 {
  margin: 8px 0 2px;
  font-weight: 600;
}

ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: 52px minmax(0, 1fr);
  gap: 10px;
  padding: 2px 0;
}
</style>
