<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { ask, client } from '@/api/client'
import { useInstruments } from '@/instruments/instruments'

/** What a new laboratory sets up first; each line is done once the database has it. */
const people = useQuery({ queryKey: ['people'], queryFn: () => ask(client.GET('/api/people')) })
const rooms = useQuery({
  queryKey: ['conditioning'],
  queryFn: () => ask(client.GET('/api/conditioning')),
})
const instruments = useInstruments()
const counter = useQuery({
  queryKey: ['counter'],
  queryFn: () => ask(client.GET('/api/counter')),
})
const lines = computed(() => {
  const known = [people, rooms, instruments, counter].every((query) => query.data.value)
  if (!known) return null
  const { products, last_job_id } = counter.data.value!
  return [
    {
      title: t('today.add-the-people'),
      text: t('today.at-least-a-technician-and-a-reviewer'),
      to: '/people',
      isDone: ['technician', 'reviewer'].every((role) =>
        people.data.value!.some((each) => each.active && each.role === role),
      ),
    },
    {
      title: t('today.add-rooms-and-chambers'),
      text: t('today.each-with-its-atmosphere-and-its-logger'),
      to: '/conditioning',
      isDone: rooms.data.value!.enclosures.length > 0,
    },
    {
      title: t('today.add-the-instruments'),
      text: t('today.each-with-its-calibration-and-its'),
      to: '/instruments',
      isDone: instruments.data.value!.length > 0,
    },
    {
      title: t('today.receive-the-first-sample'),
      text: t('today.client-product-size-tests-and-limits'),
      to: '/jobs/new',
      isDone: last_job_id !== null,
    },
    {
      title: t('today.save-the-first-product-specification'),
      text: t('today.on-the-page-of-a-job-the-next-sample-of'),
      to: '/products',
      isDone: products > 0,
    },
  ]
})
/** A laboratory that has all of this needs no list any more. */
const isShown = computed(() => lines.value?.some((line) => !line.isDone) ?? false)
</script>

<template>
  <section v-if="isShown" :aria-label="t('today.set-up-the-laboratory')">
    <h2>{{ t('today.set-up-the-laboratory') }}</h2>
    <ol>
      <li v-for="line in lines" :key="line.title" :class="{ done: line.isDone }">
        <svg viewBox="0 0 20 20" width="20" height="20" aria-hidden="true">
          <path d="M2.5 2.5h15v15h-15z" />
          <path v-if="line.isDone" d="m5.5 10 3.2 3.4L15 6.5" class="tick" />
        </svg>
        <div>
          <router-link :to="line.to">{{ line.title }}</router-link>
          <span v-if="line.isDone" class="unseen"> {{ t('today.done') }}</span>
          <p class="small quiet">{{ line.text }}</p>
        </div>
      </li>
    </ol>
  </section>
</template>

<style scoped>
section {
  max-width: 620px;
  margin: 14px 0;
  padding: 14px 18px;
  background: var(--sunk);
}

ol {
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  gap: 12px;
  padding: 7px 0;
}

svg {
  flex: none;
  margin-top: 2px;
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.6;
}

.tick {
  stroke: var(--blue);
  stroke-width: 2.6;
}

.done a {
  color: var(--ink-2);
}
</style>
