<script setup lang="ts">
import { counted, t } from '@/ui/words'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useWaiting } from '@/api/queries'
import { placeOf } from '@/app/router'
import { useSession } from '@/app/session'
import type { Block } from '@/today/today'
import ActButton from '@/ui/ActButton.vue'
import { shortMoment } from '@/ui/dates'
import { span, stepWords } from '@/ui/phrases'

/** Beside the lanes: who is to be notified, what is next, what is late and why. */
const props = defineProps<{ today: Schemas['TodayView']; now: number; busy: boolean }>()
const mine = defineModel<boolean>('mine', { required: true })
const { me } = useSession()
const waiting = useWaiting()
const toReview = computed(() =>
  me.value?.may.includes('release') ? (waiting.data.value?.judge ?? 0) : 0,
)
const next = computed(() =>
  props.today.next.filter((block) => !mine.value || block.person_id === me.value?.id),
)
const placeOfStep = (block: Block) => placeOf(block.at, block.job_id!)
const when = (block: Block) => {
  const left = Date.parse(block.begins) - props.now
  return left <= 0
    ? 'now'
    : left < 3_600_000
      ? t('today.in', { left: span(left) })
      : shortMoment(block.begins)
}
</script>

<template>
  <aside>
    <template v-if="today.tell.length">
      <h2>{{ t('today.to-notify') }}</h2>
      <p v-for="row in today.tell" :key="row" class="small late">{{ row }}.</p>
    </template>
    <template v-if="toReview">
      <h2>{{ t('today.to-review') }}</h2>
      <p class="small">
        {{ counted('today.waiting-for-review', toReview) }}
        <router-link to="/judge">{{ t('today.open-list') }}</router-link>
      </p>
    </template>
    <h2>
      {{ t('today.next') }}
      <ActButton kind="link" class="small" @click="mine = !mine">
        {{ mine ? t('today.everybodys') : t('today.my-work') }} <kbd>e</kbd>
      </ActButton>
    </h2>
    <ol>
      <li v-for="block in next" :key="`${block.id} ${block.step}`">
        <span class="mono small">{{ when(block) }}</span>
        <router-link :to="placeOfStep(block)"
          ><b>{{ stepWords(block.step) }}</b> {{ block.test }}</router-link
        >
        <span class="small quiet"
          >{{ block.person }}<template v-if="block.place">, {{ block.place }}</template></span
        >
      </li>
    </ol>
    <p v-if="!next.length" class="quiet small">
      {{
        busy
          ? t('today.planning')
          : t('today.nothing-is-planned-for', { part: mine ? t('today.you') : t('today.anyone') })
      }}
    </p>
    <template v-if="today.before_home.length">
      <h2>{{ t('today.before-going-home') }}</h2>
      <p v-for="block in today.before_home" :key="`${block.id} ${block.step}`" class="small">
        <router-link :to="placeOfStep(block)"
          >{{ stepWords(block.step) }} {{ block.test }}</router-link
        >{{ t('today.until', { end: shortMoment(block.end) }) }}
      </p>
    </template>
    <template v-if="today.late.length">
      <h2>{{ t('today.late') }}</h2>
      <p v-for="row in today.late" :key="row.id" class="small late">
        <i18n-t keypath="today.late-by" scope="global"
          ><template #test
            ><router-link :to="`/jobs/${row.job_id}`">{{ row.test }}</router-link></template
          ><template #time
            ><b class="mono">{{ span((row.minutes ?? 0) * 60_000) }}</b></template
          ><template #why>{{ row.why }}</template></i18n-t
        >
      </p>
    </template>
    <template v-if="today.at_risk.length">
      <h2>{{ t('today.at-risk') }}</h2>
      <p v-for="row in today.at_risk" :key="row.id" class="small">
        <router-link :to="`/jobs/${row.job_id}`">{{ row.test }}</router-link>{{
          t('today.to-spare', { span: span((row.minutes ?? 0) * 60_000) })
        }}
      </p>
    </template>
    <template v-if="today.unplanned.length">
      <h2>{{ t('today.unscheduled') }}</h2>
      <p v-for="row in today.unplanned" :key="row.id" class="small">
        <router-link :to="`/jobs/${row.job_id}`">{{ row.test }}</router-link>: {{ row.why }}.
      </p>
    </template>
    <template v-if="today.moved.length">
      <h2>{{ t('today.changes-since-the-last-plan') }}</h2>
      <p v-for="row in today.moved" :key="row" class="small quiet">{{ row }}</p>
    </template>
  </aside>
</template>

<style scoped>
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: grid;
  min-height: var(--touch);
  padding: 6px 0;
  border-top: 1px solid var(--hair);
}

h2 {
  margin: 14px 0 6px;
}

aside h2:first-child {
  margin-top: 0;
}

.late {
  color: var(--brick);
}
</style>
