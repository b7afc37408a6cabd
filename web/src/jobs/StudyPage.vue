<script setup lang="ts">
import { t } from '@/ui/words'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { placeOf } from '@/app/router'
import StudyRule from '@/jobs/StudyRule.vue'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import VerdictWord from '@/ui/VerdictWord.vue'
import RuledTable from '@/ui/RuledTable.vue'

/** Several samples side by side: where each stands, and each property ranked on one scale. */
const props = defineProps<{ id: number }>()
const against = ref<number | null>(null)
const study = useQuery({
  queryKey: ['study', computed(() => props.id), against],
  queryFn: () =>
    ask(
      client.GET('/api/studies/{study_id}', {
        params: {
          path: { study_id: props.id },
          query: against.value === null ? {} : { against: against.value },
        },
      }),
    ),
  placeholderData: keepPreviousData,
})
/** The files hold the samples against the same one as the page. */
const asShown = computed(() => (against.value === null ? '' : `?against=${against.value}`))
const name = (row: Schemas['ComparisonView']) =>
  [row.title, row.group].filter((part) => part).join(', ')
</script>

<template>
  <FromRecord v-if="!study.data.value" :query="study" />
  <template v-else>
    <header class="head">
      <div>
        <p class="small quiet">
          {{ t('jobs.comparison-of-samples', { samples: study.data.value.samples.length }) }}
        </p>
        <h1>{{ study.data.value.title }}</h1>
        <p class="quiet">{{ study.data.value.client }}</p>
      </div>
      <div class="then">
        <ActButton
          v-if="study.data.value.reports === 'one' && !study.data.value.to_release.length"
          kind="main"
          :href="`/api/studies/${id}/report.pdf${asShown}`"
          >{{ t('jobs.study-report') }}</ActButton
        >
        <p v-else-if="study.data.value.reports === 'one'" class="small quiet">
          {{
            t('jobs.study-report-after-all-are-released-to', {
              to_release: study.data.value.to_release.length,
            })
          }}
        </p>
        <ActButton :href="`/api/studies/${id}/table.xlsx${asShown}`">{{
          t('jobs.xlsx')
        }}</ActButton>
      </div>
    </header>
    <ul class="samples">
      <li v-for="each in study.data.value.samples" :key="each.job.id">
        <router-link class="mono" :to="`/jobs/${each.job.id}`">{{ each.job.number }}</router-link>
        <b>{{ each.variant }}</b>
        <span class="mono">{{ each.job.tested }}/{{ each.job.required }}</span>
        <span v-if="each.cancelled !== null" class="small quiet">{{
          t('jobs.cancelled-2', { cancelled: each.cancelled })
        }}</span>
        <VerdictWord v-else :verdict="each.job.verdict" :open="t('jobs.open')" />
        <router-link class="small" :to="placeOf(each.job.next_screen, each.job.id)">{{
          each.job.next_text
        }}</router-link>
      </li>
    </ul>
    <p v-if="!study.data.value.comparisons.length" class="quiet">
      {{ t('jobs.the-results-of-the-samples-appear-here') }}
    </p>
    <section v-for="(row, at) in study.data.value.comparisons" :key="at">
      <h2>
        {{ name(row) }}
        <span class="quiet small"
          >{{ row.test }} · {{ row.limit_text
          }}<template v-if="row.unit">, {{ row.unit }}</template></span
        >
      </h2>
      <RuledTable dense>
        <tbody>
          <tr
            v-for="each in row.samples"
            :key="each.job_id"
            :class="{ base: each.job_id === study.data.value.against }"
          >
            <td class="mono place">{{ each.rank ?? '–' }}</td>
            <td class="name">
              <ActButton
                kind="plain"
                :title="t('jobs.use-as-baseline', { name: each.name })"
                @click="against = each.job_id"
              >
                {{ each.name }}
              </ActButton>
            </td>
            <td class="mono right figure">{{ each.mean_text || '–' }}</td>
            <td class="drawn"><StudyRule :rule="each.rule" /></td>
            <td class="small text">{{ each.text }}</td>
          </tr>
          <tr v-if="row.samples[0]" class="axis">
            <td colspan="3"></td>
            <td class="drawn"><StudyRule :rule="row.samples[0].rule" axis /></td>
            <td class="mono small text">{{ row.unit }}</td>
          </tr>
        </tbody>
      </RuledTable>
    </section>
    <p class="small quiet">
      {{ t('jobs.each-difference-has-its-own-95-interval') }}
    </p>
  </template>
</template>

<style scoped>
.head,
.then {
  display: flex;
  gap: 14px;
  align-items: start;
  justify-content: space-between;
}

.samples {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(440px, 100%), 1fr));
  gap: 0 34px;
  margin: 18px 0 6px;
  padding: 0;
  list-style: none;
}

.samples li {
  display: grid;
  grid-template-columns: 62px minmax(0, 1fr) 44px 96px 160px;
  gap: 8px;
  align-items: baseline;
  min-height: 34px;
  padding-top: 5px;
  border-top: 1px solid var(--hair);
}

section {
  margin-top: 22px;
}

h2 span {
  margin-left: 8px;
  font-weight: 400;
}

.place {
  width: 26px;
  color: var(--ink-2);
}

.name {
  width: 180px;
}

.name button {
  min-height: 44px;
  text-align: left;
}

.base .name button {
  font-weight: 700;
}

.figure {
  width: 84px;
}

td.drawn {
  width: 42%;
  min-width: 220px;
  padding: 0 18px 0 6px;
  border-bottom: 0;
}

.axis td {
  border-bottom: 0;
  vertical-align: top;
}

.text {
  color: var(--ink-2);
}

@media (max-width: 480px) {
  .samples li {
    grid-template-columns: 62px minmax(0, 1fr) auto;
  }
}
</style>
