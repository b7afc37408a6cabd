<script setup lang="ts">
import { t } from '@/ui/words'
import MethodSmallPrint from '@/methods/MethodSmallPrint.vue'
import WorkedExample from '@/methods/WorkedExample.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import FromRecord from '@/ui/FromRecord.vue'
import SpecimenDrawing from '@/ui/SpecimenDrawing.vue'

/** The page of one method, as it would hang on the wall of the lab. */
const props = defineProps<{ method: string }>()
const params = { path: { method_id: props.method } }
const page = useQuery({
  queryKey: ['method', props.method],
  queryFn: () => ask(client.GET('/api/methods/{method_id}', { params })),
  staleTime: Infinity,
})
const example = useQuery({
  queryKey: ['example', props.method],
  queryFn: () => ask(client.GET('/api/methods/{method_id}/example', { params })),
  staleTime: Infinity,
})
const guide = computed(() => (page.data.value ?? null) as Schemas['MethodPage'] | null)
</script>

<template>
  <FromRecord v-if="!guide" :query="page" />
  <article v-else class="wall">
    <header>
      <p class="mono small quiet">
        <router-link to="/methods">{{ t('methods.methods') }}</router-link> · {{ guide.family }} ·
        {{ guide.id }}
      </p>
      <h1>{{ guide.title }}</h1>
      <p class="purpose">{{ guide.purpose }}</p>
    </header>
    <dl class="summary" :aria-label="t('methods.at-a-glance')">
      <div v-for="line in guide.summary" :key="line.title">
        <dt>{{ line.title }}</dt>
        <dd>{{ line.value }}</dd>
      </div>
    </dl>

    <ul class="cautions" :aria-label="t('methods.cautions')">
      <li v-for="line in guide.cautions" :key="line">{{ line }}</li>
    </ul>

    <div class="columns">
      <section class="specimen">
        <h2>{{ t('methods.the-specimen') }}</h2>
        <SpecimenDrawing v-if="guide.cut" :cut="guide.cut" />
        <p>{{ guide.specimen }}</p>
        <template v-if="guide.differs.length">
          <h2>{{ t('methods.difference-from-similar-methods') }}</h2>
          <p v-for="other in guide.differs" :key="other.method">
            <router-link :to="`/methods/${other.method}`">{{ other.title }}</router-link>
            <span class="mono small quiet"> {{ other.method }}</span>: {{ other.text }}
          </p>
        </template>
      </section>

      <section>
        <h2>{{ t('methods.ready-check') }}</h2>
        <ul class="checks">
          <li v-for="check in guide.ready_checks" :key="check.title as string">
            <strong>{{ check.title }}</strong>
            <span class="quiet"> {{ check.reason }}</span>
          </li>
        </ul>
        <h2>{{ t('methods.steps') }}</h2>
        <ol class="steps">
          <li v-for="line in guide.steps" :key="line">{{ line }}</li>
        </ol>
      </section>

      <section>
        <h2>{{ t('methods.calculation') }}</h2>
        <ul class="plain-list">
          <li v-for="line in guide.computes" :key="line">{{ line }}</li>
        </ul>
        <h2>{{ t('methods.common-mistakes') }}</h2>
        <ul class="wrong">
          <li v-for="line in guide.mistakes" :key="line">{{ line }}</li>
        </ul>
        <template v-if="guide.observations.length">
          <h2>{{ t('methods.observations') }}</h2>
          <ul class="plain-list">
            <li v-for="observation in guide.observations" :key="observation.code">
              <strong>{{ observation.title }}</strong>
              <span class="quiet">
                {{
                  observation.severity === 'void'
                    ? t('methods.voids-the-specimen')
                    : observation.severity === 'warn'
                      ? t('methods.counts-the-reviewer-checks-it')
                      : t('methods.stated-in-the-report')
                }}</span
              >
            </li>
          </ul>
        </template>
      </section>
    </div>

    <WorkedExample v-if="example.data.value" :example="example.data.value" />
    <MethodSmallPrint :method="guide" />
  </article>
</template>

<style scoped>
.wall > header {
  max-width: 760px;
}

.purpose {
  margin-top: 6px;
  font-size: 18px;
}

.cautions {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 26px;
  margin: 16px 0 6px;
  padding: 10px 16px;
  border-left: 6px solid var(--ochre);
  background: var(--ochre-wash);
  list-style: none;
}

.columns {
  display: grid;
  grid-template-columns: minmax(250px, 1fr) minmax(0, 1.2fr) minmax(0, 1.2fr);
  gap: 0 40px;
}

h2 {
  margin: 18px 0 8px;
}

.specimen p {
  margin-top: 12px;
}

.summary {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(330px, 1fr));
  gap: 0 40px;
  margin: 16px 0 0;
  border-bottom: 1px solid var(--hair);
}

.summary > div {
  display: grid;
  grid-template-columns: minmax(110px, max-content) 1fr;
  gap: 14px;
  padding: 5px 0;
  border-top: 1px solid var(--hair);
}

dt {
  color: var(--ink-2);
}

dd {
  margin: 0;
  overflow-wrap: anywhere;
}

ul,
ol {
  display: grid;
  gap: 7px;
  margin: 0;
  padding-left: 22px;
}

.checks,
.plain-list,
.wrong {
  padding-left: 0;
  list-style: none;
}

.checks li {
  padding-left: 24px;
  text-indent: -24px;
}

.checks .quiet,
.plain-list .quiet {
  display: block;
  text-indent: 0;
}

.checks li::before {
  display: inline-block;
  width: 12px;
  height: 12px;
  margin-right: 12px;
  border: 1.5px solid var(--ink);
  border-radius: 3px;
  content: '';
  text-indent: 0;
}

.wrong li {
  padding-left: 14px;
  border-left: 4px solid var(--brick);
}

@media (max-width: 1180px) {
  .columns {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
}

@media (max-width: 860px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
