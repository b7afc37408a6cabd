<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { ask, client } from '@/api/client'
import { useAct } from '@/api/queries'
import type { useBringing } from '@/bench/bringing'
import ActButton from '@/ui/ActButton.vue'
import { fixed } from '@/ui/numbers'
import RefusalNote from '@/ui/RefusalNote.vue'

/** Files of another program, before they are brought in: which is of which specimen. */
const props = defineProps<{ bringing: ReturnType<typeof useBringing>; busy: boolean }>()
const { chosen, seen, headers, mapping, specimensBy, lookAgain, bringSeen, leaveFiles } =
  props.bringing
const { act, refused, busy: keeping } = useAct()
const kept = useQuery({
  queryKey: ['mappings'],
  queryFn: () => ask(client.GET('/api/mappings')),
})
const fits = computed(() => seen.value?.matched.filter((file) => file.label).length ?? 0)
const name = ref('')
const means = reactive<Record<string, string>>({})
watch(headers, (preview) => {
  for (const header of Object.keys(means)) delete means[header]
  preview?.headers.forEach((header, place) => (means[header] = preview.taken[place] ?? ''))
})
async function keep() {
  const columns = Object.fromEntries(Object.entries(means).filter(([, column]) => column))
  const known = kept.data.value?.find((each) => each.name === name.value)
  const body = { name: name.value, columns, seen: known?.revision ?? 0 }
  if (await act(() => ask(client.POST('/api/mappings', { body })))) {
    mapping.value = name.value
    await lookAgain()
  }
}
</script>

<template>
  <section v-if="chosen.length" class="preview">
    <header>
      <h3>
        {{ chosen.length === 1 ? chosen[0]!.name : t('bench.files', { chosen: chosen.length }) }}
      </h3>
      <ActButton kind="link" class="small" @click="leaveFiles">{{
        t('bench.discard-files')
      }}</ActButton>
    </header>
    <div class="how">
      <v-select
        v-if="kept.data.value?.length"
        v-model="mapping"
        density="compact"
        :label="t('bench.column-mapping')"
        :items="[
          { value: '', title: t('bench.by-the-headers') },
          ...kept.data.value.map((each) => ({
            value: each.name,
            title: t('bench.revision-2', { name: each.name, revision: each.revision }),
          })),
        ]"
        @update:model-value="lookAgain"
      />
      <v-text-field
        v-model="specimensBy"
        class="mono"
        density="compact"
        :label="t('bench.column-with-the-specimen-label')"
        :placeholder="t('bench.none')"
        @change="lookAgain"
      />
    </div>
    <form v-if="headers" class="means" @submit.prevent="keep">
      <p>{{ t('bench.what-do-the-columns-mean') }}</p>
      <v-select
        v-for="header in headers.headers"
        :key="header"
        v-model="means[header]"
        density="compact"
        :label="header"
        :items="[
          { value: '', title: t('bench.not-used') },
          ...headers.columns.map((column) => ({ value: column, title: column })),
        ]"
      />
      <v-text-field
        v-model="name"
        :label="t('bench.save-mapping-as')"
        :placeholder="t('bench.name-of-the-mapping')"
      />
      <RefusalNote v-model="refused" />
      <ActButton :disabled="keeping || !name.trim()">{{
        t('bench.save-mapping-and-read-files')
      }}</ActButton>
    </form>
    <template v-if="seen">
      <ul>
        <li v-for="file in seen.matched" :key="file.name" :class="{ open: !file.label }">
          <span class="mono small name">{{ file.name }}</span>
          <b class="mono">{{ file.label ?? '–' }}</b>
          <span class="small quiet">
            <template v-if="file.label">
              {{ file.samples ?? t('bench.a-row')
              }}<template v-if="file.samples"> {{ t('bench.samples-2') }}</template
              ><template v-if="file.highest !== null">{{
                t('bench.up-to', { highest: fixed(file.highest, 1) })
              }}</template>
            </template>
            <template v-else>{{ file.text }}</template>
          </span>
        </li>
      </ul>
      <details class="small">
        <summary>{{ t('bench.how-the-files-were-read') }}</summary>
        <p v-for="line in seen.said" :key="line" class="mono">{{ line }}</p>
        <p v-if="!seen.said.length" class="quiet">{{ t('bench.as-a-test-document') }}</p>
      </details>
      <ActButton kind="main" :disabled="busy || !fits" @click="bringSeen">
        {{ t('bench.import-of', { fits, matched: seen.matched.length }) }}
      </ActButton>
    </template>
  </section>
</template>

<style scoped>
.preview {
  display: grid;
  gap: 10px;
  padding: 12px 14px;
  border: 1.5px solid var(--blue);
  border-radius: 8px;
}

header,
.how {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 22px;
  align-items: baseline;
  justify-content: space-between;
}

.how {
  justify-content: flex-start;
}

.how .v-input {
  max-width: 280px;
}

.means {
  display: grid;
  gap: 8px;
}

ul {
  max-height: 340px;
  margin: 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: minmax(0, 1.4fr) 64px minmax(0, 1fr);
  gap: 12px;
  align-items: baseline;
  padding: 4px 0;
  border-top: 1px solid var(--hair);
}

.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.open b {
  color: var(--brick);
}
</style>
