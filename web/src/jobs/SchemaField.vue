<script setup lang="ts">
import { t } from '@/ui/words'
import ActButton from '@/ui/ActButton.vue'
import FieldHelp from '@/ui/FieldHelp.vue'
import { computed, ref, watch } from 'vue'
import { signed } from '@/ui/numbers'
import { fieldWords, meant, valueOf, writtenValue, type Schema } from '@/jobs/schema'

/** One field of a plain form, made from the method's own model. */
const props = defineProps<{
  name: string
  schema: Schema
  root: Schema
  required?: boolean
  /** It stands as it is usual, unless something else is typed. */
  isUsual?: boolean
}>()
const value = defineModel<unknown>()
const meaning = computed(() => meant(props.schema, props.root))
const items = computed(() => (meaning.value.items ? meant(meaning.value.items, props.root) : null))
const usual = computed(() => {
  const given = props.schema.default
  const isPlain = typeof given === 'string' || typeof given === 'number'
  return isPlain ? t('jobs.usually', { signed: signed(String(given)) }) : ''
})
const label = computed(() => {
  if (props.isUsual) return fieldWords(props.name) + usual.value
  return fieldWords(props.name) + (props.required ? '' : t('jobs.if-known'))
})
const isHelped = ref(false)
const text = ref(writtenValue(value.value))
const isObject = (part: unknown): part is Record<string, unknown> =>
  typeof part === 'object' && part !== null && !Array.isArray(part)
const rows = ref<Record<string, unknown>[]>(
  Array.isArray(value.value) ? value.value.filter(isObject).map((row) => ({ ...row })) : [],
)
const inner = ref<Record<string, unknown>>(isObject(value.value) ? { ...value.value } : {})

watch(value, (now) => {
  if (now !== undefined) return
  text.value = ''
  rows.value = []
  inner.value = {}
})
watch(
  text,
  () => (value.value = valueOf(text.value, { ...meaning.value, items: items.value ?? {} })),
)
watch(rows, () => (value.value = rows.value.length ? rows.value : undefined), { deep: true })
watch(
  inner,
  () => {
    const filled = Object.entries(inner.value).filter(([, field]) => field !== undefined)
    value.value = filled.length ? Object.fromEntries(filled) : undefined
  },
  { deep: true },
)
const fields = (schema: Schema) => Object.entries(schema.properties ?? {})
</script>

<template>
  <v-select
    v-if="meaning.enum"
    :model-value="(value as string | number | undefined) ?? null"
    :items="meaning.enum"
    :label="label"
    :hint="meaning.description"
    :persistent-hint="isHelped"
    @keydown.f1.prevent="isHelped = !isHelped"
    @update:model-value="value = $event ?? undefined"
  >
    <template v-if="meaning.description" #append-inner>
      <FieldHelp v-model="isHelped" />
    </template>
  </v-select>
  <v-checkbox
    v-else-if="meaning.type === 'boolean'"
    :model-value="value === true"
    :label="label.replace(t('jobs.if-known'), '')"
    @update:model-value="value = $event === true"
  />
  <fieldset v-else-if="meaning.type === 'array' && items?.properties">
    <legend>{{ fieldWords(name) }}</legend>
    <div v-for="(row, place) in rows" :key="place" class="row">
      <span class="mono quiet">{{ place + 1 }}</span>
      <SchemaField
        v-for="[field, part] in fields(items)"
        :key="field"
        v-model="row[field]"
        :name="field"
        :schema="part"
        :root="root"
        :required="items.required?.includes(field)"
      />
      <ActButton type="button" kind="plain" @click="rows.splice(place, 1)">{{
        t('jobs.remove')
      }}</ActButton>
    </div>
    <ActButton type="button" @click="rows.push({})">
      {{ t('jobs.add', { part: rows.length ? t('jobs.the-next') : t('jobs.the-first') }) }}
    </ActButton>
  </fieldset>
  <fieldset v-else-if="meaning.properties">
    <legend>{{ fieldWords(name) }}</legend>
    <div class="row">
      <SchemaField
        v-for="[field, part] in fields(meaning)"
        :key="field"
        v-model="inner[field]"
        :name="field"
        :schema="part"
        :root="root"
        :required="meaning.required?.includes(field)"
      />
    </div>
  </fieldset>
  <v-text-field
    v-else
    v-model="text"
    :class="{ mono: meaning.type !== 'string' }"
    :label="meaning.type === 'array' ? t('jobs.several-parted-by-a-space', { label }) : label"
    :hint="isHelped ? meaning.description : ''"
    :persistent-hint="isHelped"
    @keydown.f1.prevent="isHelped = !isHelped"
  >
    <template v-if="meaning.description" #append-inner>
      <FieldHelp v-model="isHelped" />
    </template>
  </v-text-field>
</template>

<style scoped>
fieldset {
  display: grid;
  grid-column: 1 / -1;
  gap: 10px;
  margin: 0;
  padding: 10px 14px 14px;
  border: 1px solid var(--hair);
  border-radius: 7px;
}

legend {
  padding: 0 6px;
  color: var(--ink-2);
}

.row {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 10px;
  align-items: center;
}

.row > span.mono {
  width: 24px;
}
</style>
