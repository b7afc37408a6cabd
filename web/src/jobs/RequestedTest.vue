<script setup lang="ts">
import { counted, t } from '@/ui/words'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import LimitField from '@/jobs/LimitField.vue'
import { useMethodFields } from '@/jobs/methodFields'
import SchemaField from '@/jobs/SchemaField.vue'
import { rowsOf, type Requested } from '@/jobs/requested'
import ActButton from '@/ui/ActButton.vue'

/** One test at the counter: what client and method have to say about it, and its limits. */
const props = defineProps<{ requested: Requested; materials: Schemas['MaterialRow'][] }>()
defineEmits<{ out: [] }>()
const requested = computed(() => props.requested)
const isMore = ref(false)
const { page, schema, usually } = useMethodFields(
  props.requested.method,
  computed(() => props.requested.method.needed.length > 0 || isMore.value),
)
/** A melt is run as its material is: the table of the laboratory says how hot, and under which load. */
const isMelt = computed(() => props.requested.method.needed.includes('load_kg'))
const picked = ref<string | null>(null)
function runAs(name: string | null) {
  picked.value = name
  const row = props.materials.find((each) => each.material === name)
  if (!row) return
  const { temperature_c, load_kg } = row
  Object.assign(requested.value.parameters, { temperature_c, load_kg })
}
const rows = computed(() => (props.requested.specified ? [] : rowsOf(props.requested.method)))
</script>

<template>
  <div class="test">
    <header>
      <strong>{{ requested.method.title }}</strong>
      <span class="mono small">{{ requested.method.id }}</span>
      <span class="quiet small">
        <template v-if="requested.method.by_document">{{
          t('jobs.specimens-from-an-imported-document')
        }}</template>
        <template v-else
          >{{ requested.method.specimens_per_direction
          }}{{
            requested.method.spares_per_direction
              ? t('jobs.spare', { spares_per_direction: requested.method.spares_per_direction })
              : ''
          }}{{ requested.method.directions.length ? t('jobs.per-direction-2') : '' }},
          {{ requested.method.size_text }}</template
        >
      </span>
      <ActButton type="button" kind="plain" class="small" @click="$emit('out')">{{
        t('jobs.remove')
      }}</ActButton>
    </header>
    <v-select
      v-if="isMelt && materials.length"
      :model-value="picked"
      :items="materials.map((row) => row.material)"
      :label="t('jobs.conditions-from-the-lab-tables')"
      @update:model-value="runAs"
    />
    <div v-if="requested.method.needed.length" :key="picked ?? ''" class="limits">
      <template v-for="name in requested.method.needed" :key="name">
        <SchemaField
          v-if="schema.properties?.[name]"
          v-model="requested.parameters[name]"
          :name="name"
          :schema="schema.properties![name]!"
          :root="schema"
          required
        />
      </template>
    </div>
    <details
      v-if="requested.method.optional.length && !requested.specified"
      @toggle="isMore = ($event.target as HTMLDetailsElement).open"
    >
      <summary class="small">{{ t('jobs.requested-deviations-from-the-method') }}</summary>
      <div v-if="isMore && page.data.value" class="limits more">
        <SchemaField
          v-for="name in requested.method.optional"
          :key="name"
          v-model="requested.parameters[name]"
          :name="name"
          :schema="usually(name)"
          :root="schema"
          is-usual
        />
      </div>
    </details>
    <p v-if="requested.specified" class="small quiet">
      {{ counted('jobs.limit-of-its-specification', requested.specified.length) }}
    </p>
    <div class="limits">
      <LimitField
        v-for="row in rows"
        :key="row.key"
        v-model="requested.limits[row.key]!"
        :label="row.label"
        :statistic="row.statistic"
        :unit="row.unit"
      />
    </div>
  </div>
</template>

<style scoped>
.test {
  display: grid;
  gap: 10px;
  padding: 10px 14px 14px;
  border: 1.5px solid var(--ink-3);
  border-radius: 7px;
}

.test header {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
}

.test header button {
  margin-left: auto;
}

.test .limits {
  grid-template-columns: repeat(auto-fit, minmax(300px, 1fr));
}

summary {
  color: var(--ink-2);
  cursor: pointer;
}

.more {
  align-items: start;
  margin-top: 10px;
}

.limits {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
}
</style>
