<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import LimitField from '@/jobs/LimitField.vue'
import type { Schema } from '@/jobs/schema'
import SchemaField from '@/jobs/SchemaField.vue'
import { rowsOf, type Wanted } from '@/jobs/wanted'
import ActButton from '@/ui/ActButton.vue'

/** One test at the counter: what client and method have to say about it, and its limits. */
const props = defineProps<{ wanted: Wanted; materials: Schemas['MaterialRow'][] }>()
defineEmits<{ out: [] }>()
const wanted = computed(() => props.wanted)
const id = props.wanted.method.id
const isMore = ref(false)
const page = useQuery({
  queryKey: ['method', id],
  queryFn: () =>
    ask(client.GET('/api/methods/{method_id}', { params: { path: { method_id: id } } })),
  enabled: computed(() => props.wanted.method.needed.length > 0 || isMore.value),
  staleTime: Infinity,
})
const schema = computed(() => (page.data.value?.parameters_schema ?? {}) as Schema)
/** A melt is run as its material is: the table of the laboratory says how hot, and under which load. */
const isMelt = computed(() => props.wanted.method.needed.includes('load_kg'))
const picked = ref<string | null>(null)
function runAs(name: string | null) {
  picked.value = name
  const row = props.materials.find((each) => each.material === name)
  if (!row) return
  const { temperature_c, load_kg } = row
  Object.assign(wanted.value.parameters, { temperature_c, load_kg })
}
/** A field with its default; how many are usual is what the method asks for. */
function usually(name: string): Schema {
  const field = schema.value.properties![name]!
  const isCount = name === 'specimens_wanted'
  return isCount ? { ...field, default: props.wanted.method.specimens_per_direction } : field
}
const rows = computed(() => (props.wanted.specified ? [] : rowsOf(props.wanted.method)))
</script>

<template>
  <div class="test">
    <header>
      <strong>{{ wanted.method.title }}</strong>
      <span class="mono small">{{ wanted.method.id }}</span>
      <span class="quiet small">
        <template v-if="wanted.method.by_document">specimens from an imported document</template>
        <template v-else
          >{{ wanted.method.specimens_per_direction
          }}{{
            wanted.method.spares_per_direction
              ? ` + ${wanted.method.spares_per_direction} spare`
              : ''
          }}{{ wanted.method.directions.length ? ' per direction' : '' }},
          {{ wanted.method.size_words }}</template
        >
      </span>
      <ActButton type="button" kind="plain" class="small" @click="$emit('out')">remove</ActButton>
    </header>
    <v-select
      v-if="isMelt && materials.length"
      :model-value="picked"
      :items="materials.map((row) => row.material)"
      label="Conditions from the lab tables"
      @update:model-value="runAs"
    />
    <div v-if="wanted.method.needed.length" :key="picked ?? ''" class="limits">
      <template v-for="name in wanted.method.needed" :key="name">
        <SchemaField
          v-if="schema.properties?.[name]"
          v-model="wanted.parameters[name]"
          :name="name"
          :schema="schema.properties![name]!"
          :root="schema"
          required
        />
      </template>
    </div>
    <details
      v-if="wanted.method.may_be_asked.length && !wanted.specified"
      @toggle="isMore = ($event.target as HTMLDetailsElement).open"
    >
      <summary class="small">Requested deviations from the method: count, sizes, speeds …</summary>
      <div v-if="isMore && page.data.value" class="limits more">
        <SchemaField
          v-for="name in wanted.method.may_be_asked"
          :key="name"
          v-model="wanted.parameters[name]"
          :name="name"
          :schema="usually(name)"
          :root="schema"
          is-usual
        />
      </div>
    </details>
    <p v-if="wanted.specified" class="small quiet">
      {{ wanted.specified.length }} limit{{ wanted.specified.length === 1 ? '' : 's' }} of its
      specification
    </p>
    <div class="limits">
      <LimitField
        v-for="row in rows"
        :key="row.key"
        v-model="wanted.limits[row.key]!"
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
