<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { shortMoment, stretch, together } from '@/composables/words'

/** Specimens that were hung in together: how far they are, what holds them up, what comes next. */
const props = defineProps<{
  group: Schemas['HangingGroup']
  policy: string
  now: number
  busy: boolean
  logged: boolean
}>()
const emit = defineEmits<{ out: [ids: number[]]; weigh: [specimen: number, mass: number] }>()

const opened = ref(false)
const specimen = ref<number | null>(props.group.specimens[0]?.specimen_id ?? null)
const mass = ref('')
const left = computed(() => {
  const { group } = props
  if (group.ready) return 'served'
  if (!group.runs_out_at) return 'clock stands'
  return `${stretch(Date.parse(group.runs_out_at) - props.now)} to go`
})
const share = computed(() => Math.min(props.group.minutes / props.group.least_minutes, 1))
const hours = (minutes: number) => (minutes / 60).toFixed(1)
const weighed = computed(() => props.group.specimens.filter((one) => one.weighings.length))

function weigh() {
  const grams = Number(mass.value.replace(',', '.'))
  const id = specimen.value ?? props.group.specimens[0]!.specimen_id
  if (grams > 0) emit('weigh', id, grams)
  mass.value = ''
}
</script>

<template>
  <article :class="{ idle: !group.counts }">
    <div class="facts">
      <p>
        <router-link :to="`/jobs/${group.job_id}`" class="mono">{{ group.job_number }}</router-link>
        <strong>{{ group.test }}</strong>
      </p>
      <p class="quiet small">{{ group.product }}</p>
      <p class="mono small labels">{{ together(group.specimens.map((one) => one.label)) }}</p>
    </div>
    <div class="time">
      <p>
        <strong class="mono" :class="{ ready: group.ready, stands: !group.runs_out_at }">{{
          left
        }}</strong>
        <span class="quiet small">{{ group.then }}</span>
      </p>
      <span class="tape" role="progressbar" :aria-valuenow="Math.round(share * 100)">
        <span :style="{ width: `${share * 100}%` }" />
      </span>
      <p class="small quiet">
        hung {{ shortMoment(group.hung_at) }}
        <template v-if="group.counted_by === 'weighing'">, in equilibrium by weighing</template>
        <template v-else-if="!logged">, counted by the clock</template>
      </p>
      <p v-if="logged && group.counts && !group.ready" class="small schools">
        <span :class="{ own: policy === 'restart' }"
          >restart <b class="mono">{{ hours(group.restart_minutes) }}</b></span
        >
        <span :class="{ own: policy === 'subtract' }"
          >subtract <b class="mono">{{ hours(group.subtract_minutes) }}</b></span
        >
        <span class="quiet">of {{ hours(group.least_minutes) }} h</span>
      </p>
      <p v-if="group.excursions" class="small bad">
        {{ group.excursions }} excursion{{ group.excursions > 1 ? 's' : '' }},
        {{ group.outside_minutes.toFixed(0) }} min outside
      </p>
      <p v-if="group.unproven_minutes >= 1" class="small bad">
        {{ group.unproven_minutes.toFixed(0) }} min unproven: the log has a gap
      </p>
    </div>
    <div class="acts">
      <router-link v-if="group.ready" class="act" :to="`/bench/${group.job_id}`"
        >To the bench</router-link
      >
      <button
        class="act"
        :disabled="busy"
        @click="
          emit(
            'out',
            group.specimens.map((one) => one.specimen_id),
          )
        "
      >
        Take out
      </button>
      <button v-if="group.counts" class="plain link" @click="opened = !opened">
        {{ opened ? 'close' : 'weigh' }}
      </button>
    </div>
    <form v-if="opened" class="weigh" @submit.prevent="weigh">
      <label
        >Specimen
        <select v-model="specimen" class="field">
          <option v-for="one in group.specimens" :key="one.specimen_id" :value="one.specimen_id">
            {{ one.label }}
          </option>
        </select>
      </label>
      <label>mass <input v-model="mass" class="mono field" inputmode="decimal" size="8" /> g</label>
      <button class="act" :disabled="busy || !mass.trim()">Note it</button>
      <p class="small quiet">
        In equilibrium when two weighings 2 h apart or more differ by 0.25 % or less.
      </p>
      <p v-for="one in weighed" :key="one.specimen_id" class="small">
        <b class="mono">{{ one.label }}</b>
        {{ one.weighings.map((each) => `${each.mass_g} g at ${shortMoment(each.at)}`).join('; ') }},
        {{ one.equilibrium }}
      </p>
    </form>
  </article>
</template>

<style scoped>
article {
  display: grid;
  grid-template-columns: minmax(180px, 1fr) minmax(230px, 1.15fr) auto;
  gap: 6px 22px;
  align-items: start;
  padding: 11px 0;
  border-bottom: 1px solid var(--hair);
}

.facts p:first-child {
  display: flex;
  flex-wrap: wrap;
  gap: 0 10px;
}

.labels {
  overflow-wrap: anywhere;
}

.time p:first-child {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  align-items: baseline;
}

.ready {
  color: var(--ochre);
}

.stands,
.bad {
  color: var(--brick);
}

.bad {
  font-weight: 600;
}

.schools {
  display: flex;
  gap: 14px;
}

.schools .own {
  text-decoration: underline;
  text-underline-offset: 3px;
}

.tape {
  display: block;
  height: 7px;
  margin: 4px 0;
  background: var(--sunk);
}

.tape span {
  display: block;
  height: 100%;
  background: repeating-linear-gradient(90deg, var(--tape) 0 9px, transparent 9px 10px);
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  justify-content: flex-end;
}

.link {
  min-height: 44px;
  padding: 0 4px;
  color: var(--blue);
  font-size: 14px;
  text-decoration: underline;
  text-underline-offset: 3px;
}

.weigh {
  display: flex;
  flex-wrap: wrap;
  grid-column: 1 / -1;
  gap: 6px 16px;
  align-items: center;
  padding: 8px 14px;
  background: var(--sunk);
}

.weigh p {
  width: 100%;
}

@media (max-width: 1100px) {
  article {
    grid-template-columns: minmax(150px, 1fr) minmax(190px, 1.15fr);
  }

  .acts {
    grid-column: 1 / -1;
    justify-content: flex-start;
  }
}
</style>
