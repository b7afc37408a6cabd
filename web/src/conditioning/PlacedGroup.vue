<script setup lang="ts">
import { counted, t } from '@/ui/words'
import { figureFrom, fixed } from '@/ui/numbers'
import ActButton from '@/ui/ActButton.vue'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { shortMoment } from '@/ui/dates'
import { stretch, together } from '@/ui/phrases'

/** Specimens that were placed together: how far they are, what holds them up, what comes next. */
const props = defineProps<{
  group: Schemas['ConditioningGroup']
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
  if (group.ready) return 'conditioned'
  if (!group.runs_out_at) return t('conditioning.clock-stands')
  return t('conditioning.to-go', { stretch: stretch(Date.parse(group.runs_out_at) - props.now) })
})
const share = computed(() => Math.min(props.group.minutes / props.group.least_minutes, 1))
const hours = (minutes: number) => fixed(minutes / 60, 1)
const weighed = computed(() =>
  props.group.specimens.filter((specimen) => specimen.weighings.length),
)

function weigh() {
  const grams = figureFrom(mass.value)
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
      <p class="mono small labels">{{ together(group.specimens.map((member) => member.label)) }}</p>
    </div>
    <div class="time">
      <p>
        <strong class="mono" :class="{ ready: group.ready, stands: !group.runs_out_at }">{{
          left
        }}</strong>
        <span class="quiet small">
          <template v-if="!group.ready && group.runs_out_at"
            >{{
              t('conditioning.ready', { runs_out_at: shortMoment(group.runs_out_at) })
            }} </template>{{ group.then }}
        </span>
      </p>
      <span class="tape" role="progressbar" :aria-valuenow="Math.round(share * 100)">
        <span :style="{ width: `${share * 100}%` }" />
      </span>
      <p class="small quiet">
        {{ t('conditioning.since', { placed_at: shortMoment(group.placed_at) }) }}
        <template v-if="group.counted_by === 'weighing'">{{
          t('conditioning.in-equilibrium-by-weighing')
        }}</template>
        <template v-else-if="!logged">{{ t('conditioning.counted-by-the-clock') }}</template>
      </p>
      <p v-if="logged && group.counts && !group.ready" class="small schools">
        <span :class="{ own: policy === 'restart' }"
          >{{ t('conditioning.restart') }}
          <b class="mono">{{ hours(group.restart_minutes) }}</b></span
        >
        <span :class="{ own: policy === 'subtract' }"
          >{{ t('conditioning.subtract') }}
          <b class="mono">{{ hours(group.subtract_minutes) }}</b></span
        >
        <span class="quiet">{{
          t('conditioning.of-h', { least_minutes: hours(group.least_minutes) })
        }}</span>
      </p>
      <p v-if="group.excursions" class="small bad">
        {{
          counted('conditioning.excursion-min-outside', group.excursions, {
            outside_minutes: fixed(group.outside_minutes, 0),
          })
        }}
      </p>
      <p v-if="group.unproven_minutes >= 1" class="small bad">
        {{
          t('conditioning.min-unproven-the-log-has-a-gap', {
            unproven_minutes: fixed(group.unproven_minutes, 0),
          })
        }}
      </p>
    </div>
    <div class="acts">
      <ActButton v-if="group.ready" :to="`/bench/${group.job_id}`">{{
        t('conditioning.go-to-bench')
      }}</ActButton>
      <ActButton
        :disabled="busy"
        @click="
          emit(
            'out',
            group.specimens.map((member) => member.specimen_id),
          )
        "
      >
        {{ t('conditioning.take-out-2') }}
      </ActButton>
      <ActButton v-if="group.counts" kind="link" @click="opened = !opened">
        {{ opened ? t('conditioning.close') : t('conditioning.weigh') }}
      </ActButton>
    </div>
    <form v-if="opened" class="weigh" @submit.prevent="weigh">
      <v-select
        v-model="specimen"
        class="short"
        density="compact"
        :label="t('conditioning.specimen')"
        :items="group.specimens"
        item-value="specimen_id"
        item-title="label"
      />
      <v-text-field
        v-model="mass"
        class="mono short"
        density="compact"
        inputmode="decimal"
        :label="t('conditioning.mass')"
        suffix="g"
      />
      <ActButton :disabled="busy || !mass.trim()">{{ t('conditioning.record-mass') }}</ActButton>
      <p class="small quiet">
        {{ t('conditioning.equilibrium-two-weighings-at-least-2-h') }}
      </p>
      <p v-for="member in weighed" :key="member.specimen_id" class="small">
        <b class="mono">{{ member.label }}</b>
        {{
          member.weighings
            .map((each) =>
              t('conditioning.g-at', { mass_g: each.mass_g, at: shortMoment(each.at) }),
            )
            .join('; ')
        }},
        {{ member.equilibrium }}
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
    grid-template-columns: repeat(auto-fit, minmax(160px, 1fr));
  }

  .acts {
    grid-column: 1 / -1;
    justify-content: flex-start;
  }
}
</style>
