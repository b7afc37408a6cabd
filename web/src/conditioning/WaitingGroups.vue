<script setup lang="ts">
import { counted, t } from '@/ui/words'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { byJob, idsOf } from '@/conditioning/groups'
import ActButton from '@/ui/ActButton.vue'
import { shortMoment } from '@/ui/dates'
import { stretch, together } from '@/ui/phrases'

/** Specimens that wait to be placed, the most urgent first. */
const props = defineProps<{
  waiting: Schemas['WaitingGroup'][]
  own: Schemas['WaitingGroup'] | null
  rooms: Schemas['EnclosureView'][]
  more: number
  now: number
  busy: boolean
}>()
const emit = defineEmits<{ place: [room: number, ids: number[], confirmed: string[]] }>()
/** What has to be done before conditioning, such as mounting; confirmed for a whole group. */
const done = ref(new Set<string>())
const jobs = computed(() => byJob(props.waiting))
const keyOf = (group: Schemas['WaitingGroup']) => `${group.job_id} ${group.test}`
function confirm(group: Schemas['WaitingGroup'], isDone: boolean) {
  if (isDone) done.value.add(keyOf(group))
  else done.value.delete(keyOf(group))
}
function start(group: Schemas['WaitingGroup'], room: number) {
  emit(
    'place',
    room,
    idsOf(group),
    done.value.has(keyOf(group)) ? group.early.map((e) => e.code) : [],
  )
}
const nameOf = (id: number) => props.rooms.find((room) => room.id === id)?.name ?? ''
const drier = computed(() => props.rooms.find((room) => room.atmosphere === 'pre-conditioning'))
</script>

<template>
  <section class="waiting">
    <article v-for="job in jobs" :key="job.id" class="job">
      <header>
        <p class="what">
          <router-link :to="`/jobs/${job.id}`" class="mono">{{ job.number }}</router-link>
          <strong>{{ job.product }}</strong>
        </p>
        <ActButton
          v-if="job.together"
          :disabled="busy"
          @click="emit('place', job.together.room, job.together.ids, [])"
        >
          {{
            t('conditioning.place-all-in', {
              ids: job.together.ids.length,
              room: nameOf(job.together.room),
            })
          }}
        </ActButton>
      </header>
      <div v-for="group in job.groups" :key="`${group.test} ${group.atmosphere}`" class="group">
        <div>
          <p>
            {{ group.test }}
            <span class="mono quiet small">
              {{ together(group.specimens.map((specimen) => specimen.label)) }}
            </span>
          </p>
          <p v-if="group.damp" class="small bad">
            {{ t('conditioning.the-sample-arrived-damp-pre-condition') }}
          </p>
          <v-checkbox
            v-if="group.early.length"
            :model-value="done.has(keyOf(group))"
            :label="group.early.map((item) => item.title).join('; ')"
            @update:model-value="confirm(group, $event === true)"
          />
        </div>
        <p v-if="group.latest_at" class="latest">
          <b class="mono" :class="{ bad: Date.parse(group.latest_at) < now }">{{
            Date.parse(group.latest_at) < now
              ? t('conditioning.overrun')
              : stretch(Date.parse(group.latest_at) - now)
          }}</b>
          <span class="quiet small">{{
            t('conditioning.by', {
              part: group.atmosphere_title
                ? t('conditioning.into-the', {
                    atmosphere_title: group.atmosphere_title.toLowerCase(),
                  })
                : t('conditioning.to-be-tested'),
              latest_at: shortMoment(group.latest_at),
            })
          }}</span>
        </p>
        <div class="row">
          <ActButton
            v-if="group.damp && drier"
            :disabled="busy"
            @click="emit('place', drier.id, idsOf(group), [])"
          >
            {{ t('conditioning.pre-condition-first') }}
          </ActButton>
          <ActButton
            v-if="group.enclosures.length"
            :kind="group === own ? 'main' : 'usual'"
            :disabled="busy || (group.early.length > 0 && !done.has(keyOf(group)))"
            @click="start(group, group.enclosures[0]!)"
          >
            {{
              t('conditioning.place-in-2', {
                specimens: group.specimens.length,
                enclosures: nameOf(group.enclosures[0]!),
              })
            }}
            <kbd v-if="group === own && !group.early.length">{{ t('conditioning.enter') }}</kbd>
          </ActButton>
          <ActButton v-else-if="!group.atmosphere" :to="`/bench/${group.job_id}`">{{
            t('conditioning.go-to-bench')
          }}</ActButton>
          <p v-else class="bad small">
            {{
              t('conditioning.no-room-or-chamber-is-set-to', {
                atmosphere_title: group.atmosphere_title.toLowerCase(),
              })
            }}
          </p>
        </div>
      </div>
    </article>
    <p v-if="more" class="quiet small more">
      {{ counted('conditioning.more-waiting-less-urgent-than-these', more) }}
    </p>
  </section>
</template>

<style scoped>
.waiting {
  margin-bottom: 16px;
  padding: 2px 16px;
  background: var(--sunk);
}

.job {
  padding: 9px 0;
}

.job + .job {
  border-top: 1px solid var(--hair);
}

.job > header,
.group {
  display: flex;
  gap: 20px;
  align-items: center;
  justify-content: space-between;
}

.group {
  padding: 4px 0 4px 20px;
}

.what {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
}

.latest {
  display: grid;
  text-align: right;
}

.latest b {
  font-size: 20px;
  line-height: 1.1;
}

@media (max-width: 860px) {
  .job > header,
  .group {
    display: block;
  }
}

.more {
  padding: 9px 0;
  border-top: 1px solid var(--hair);
}
</style>
