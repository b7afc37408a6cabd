<script setup lang="ts">
import { t } from '@/ui/words'
import { computed, reactive } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct, useMethods } from '@/api/queries'
import { useSession } from '@/app/session'
import ActButton from '@/ui/ActButton.vue'
import DateField from '@/ui/DateField.vue'
import { dayOf } from '@/ui/dates'
import RefusalNote from '@/ui/RefusalNote.vue'

/** The methods that a person is authorised for, and the next one. */
const props = defineProps<{ person: Schemas['PersonView'] }>()
const { me } = useSession()
const { act, refused, busy } = useAct()
const methods = useMethods()
const mayAuthorise = computed(() => me.value?.may.includes('equip') ?? false)
const granted = reactive<{ method: string | null; until: string | null }>({
  method: null,
  until: '',
})

async function authorise() {
  const until = granted.until ? new Date(`${granted.until}T23:59`).toISOString() : null
  const done = await act(() =>
    ask(
      client.POST('/api/people/{person_id}/authorisations', {
        params: { path: { person_id: props.person.id } },
        body: { method: granted.method!, until },
      }),
    ),
  )
  if (done) Object.assign(granted, { method: null, until: '' })
}
const withdraw = (authorisation_id: number) =>
  act(() =>
    ask(
      client.POST('/api/authorisations/{authorisation_id}/withdraw', {
        params: { path: { authorisation_id } },
      }),
    ),
  )
</script>

<template>
  <h3>{{ t('people.authorised-for') }}</h3>
  <p class="quiet small">
    {{ t('people.a-method-without-authorised-persons-is') }}
  </p>
  <ul class="granted">
    <li v-for="row in person.authorised" :key="row.id" :class="{ gone: !row.holds }">
      <b class="mono">{{ row.method }}</b>
      <span class="small quiet">
        {{ t('people.since-by', { since: dayOf(row.since), by: row.by })
        }}<template v-if="row.until">{{ t('people.until', { until: dayOf(row.until) }) }}</template>
      </span>
      <ActButton
        v-if="mayAuthorise"
        kind="link"
        class="small"
        :disabled="busy"
        @click="withdraw(row.id)"
      >
        {{ t('people.end-authorisation') }}
      </ActButton>
    </li>
    <li v-if="!person.authorised.length" class="quiet">{{ t('people.no-method') }}</li>
  </ul>
  <form v-if="mayAuthorise && person.active" class="grant" @submit.prevent="authorise">
    <v-autocomplete
      v-model="granted.method"
      :label="t('people.method')"
      :items="
        (methods.data.value ?? []).map((each) => ({
          value: each.id,
          title: `${each.title}, ${each.id}`,
        }))
      "
    />
    <DateField v-model="granted.until" :label="t('people.until-optional')" />
    <ActButton :disabled="busy || !granted.method || granted.until === null">{{
      t('people.authorise')
    }}</ActButton>
  </form>
  <RefusalNote v-model="refused" />
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

.granted li {
  display: grid;
  grid-template-columns: 160px minmax(0, 1fr) auto;
  gap: 14px;
  align-items: baseline;
  padding: 6px 0;
  border-top: 1px solid var(--hair);
}

.gone {
  opacity: 0.65;
}

.grant {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 200px auto;
  gap: 14px;
  align-items: center;
}
</style>
