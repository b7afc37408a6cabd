<script setup lang="ts">
import { vFocus } from '@/ui/focus'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct, useMethods } from '@/api/queries'
import { useSession } from '@/app/session'
import HoursForm from '@/people/HoursForm.vue'
import HousePane from '@/people/HousePane.vue'
import PasswordForm from '@/people/PasswordForm.vue'
import ActButton from '@/ui/ActButton.vue'
import DayField from '@/ui/DayField.vue'
import FromRecord from '@/ui/FromRecord.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import { dayOf } from '@/ui/words'

/** The people of the laboratory: roles, supervisors, passwords, and what each is authorised for. */
type Person = Schemas['PersonView']
const ROLES: Schemas['PersonRequest']['role'][] = ['trainee', 'technician', 'reviewer', 'manager']
const { me } = useSession()
const { act, refused, busy } = useAct()
const methods = useMethods()
const people = useQuery({ queryKey: ['people'], queryFn: () => ask(client.GET('/api/people')) })
const picked = ref<number | null>(null)
const adding = ref(false)
const house = ref(false)
const chosen = computed<Person | null>(() => {
  const all = people.data.value ?? []
  return all.find((each) => each.id === (picked.value ?? me.value?.id)) ?? null
})
const mayManage = computed(() => me.value?.may.includes('manage-people') ?? false)
const mayAuthorise = computed(() => me.value?.may.includes('equip') ?? false)
const typed = reactive({ name: '', role: ROLES[1]!, supervisor: 0 })
watch(
  chosen,
  (person) => {
    if (person)
      Object.assign(typed, {
        name: person.name,
        role: person.role as Schemas['PersonRequest']['role'],
        supervisor: person.supervisor_id ?? 0,
      })
  },
  { immediate: true },
)
const supervisors = computed(() =>
  (people.data.value ?? []).filter((each) => each.active && each.role !== 'trainee'),
)
const fresh = reactive({ login: '', name: '', role: ROLES[1]!, password: '' })
const granted = reactive({ method: null as string | null, until: '' })

const change = (active: boolean) =>
  act(() =>
    ask(
      client.PUT('/api/people/{person_id}', {
        params: { path: { person_id: chosen.value!.id } },
        body: {
          name: typed.name,
          role: typed.role,
          active,
          supervisor_id: typed.role === 'trainee' ? typed.supervisor || null : null,
        },
      }),
    ),
  )
async function add() {
  if (await act(() => ask(client.POST('/api/people', { body: { ...fresh } })))) {
    adding.value = false
    Object.assign(fresh, { login: '', name: '', role: ROLES[1]!, password: '' })
  }
}
async function authorise() {
  const until = granted.until ? new Date(`${granted.until}T23:59`).toISOString() : null
  const done = await act(() =>
    ask(
      client.POST('/api/people/{person_id}/authorisations', {
        params: { path: { person_id: chosen.value!.id } },
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
  <FromRecord v-if="!people.data.value" :query="people" />
  <div v-else class="two">
    <aside>
      <h1>People</h1>
      <ul>
        <li>
          <button
            class="plain"
            :class="{ open: house }"
            @click="((house = true), (adding = false))"
          >
            <span class="name">Lab settings</span>
          </button>
        </li>
        <li v-for="person in people.data.value" :key="person.id">
          <button
            class="plain"
            :class="{ open: !adding && !house && chosen?.id === person.id, gone: !person.active }"
            @click="((picked = person.id), (adding = false), (house = false))"
          >
            <span class="name">{{ person.name }}</span>
            <span class="small quiet">{{ person.active ? person.role : 'inactive' }}</span>
          </button>
        </li>
      </ul>
      <ActButton v-if="mayManage" @click="((adding = true), (house = false))">
        Add person
      </ActButton>
    </aside>
    <HousePane v-if="house" :may-change="mayManage" />
    <form v-else-if="adding" class="pane" @submit.prevent="add">
      <h2>Add person</h2>
      <div class="fields">
        <v-text-field v-model="fresh.name" v-focus label="Name" />
        <v-text-field v-model="fresh.login" class="mono" label="Login" />
        <v-select v-model="fresh.role" label="Role" :items="ROLES" />
        <v-text-field
          v-model="fresh.password"
          type="password"
          label="Password, at least 10 characters"
          autocomplete="new-password"
        />
      </div>
      <RefusalNote v-model="refused" />
      <ActButton kind="main" :disabled="busy || !fresh.name.trim() || !fresh.login.trim()">
        Add person
      </ActButton>
    </form>
    <section v-else-if="chosen" class="pane">
      <header>
        <h2>{{ chosen.name }}</h2>
        <p class="quiet">
          login <span class="mono">{{ chosen.login }}</span>
          <template v-if="chosen.supervisor"> · supervisor {{ chosen.supervisor }}</template>
        </p>
      </header>
      <form v-if="mayManage" @submit.prevent="change(chosen.active)">
        <div class="fields">
          <v-text-field v-model="typed.name" label="Name" />
          <v-select v-model="typed.role" label="Role" :items="ROLES" />
          <v-select
            v-if="typed.role === 'trainee'"
            v-model="typed.supervisor"
            label="Supervisor"
            :items="[
              { value: 0, title: 'none (read only)' },
              ...supervisors.map((each) => ({ value: each.id, title: each.name })),
            ]"
          />
        </div>
        <p class="acts">
          <ActButton :disabled="busy">Save changes</ActButton>
          <ActButton type="button" :disabled="busy" @click="change(!chosen.active)">
            {{ chosen.active ? 'Deactivate' : 'Reactivate' }}
          </ActButton>
        </p>
      </form>
      <RefusalNote v-model="refused" />
      <HoursForm v-if="mayManage && chosen.active" :person="chosen" />
      <h3>Authorised for</h3>
      <p class="quiet small">
        A method without authorised persons is open to everyone who tests. Once a person is
        authorised, only authorised persons and their trainees can run it.
      </p>
      <ul class="granted">
        <li v-for="row in chosen.authorised" :key="row.id" :class="{ gone: !row.holds }">
          <b class="mono">{{ row.method }}</b>
          <span class="small quiet">
            since {{ dayOf(row.since) }}, by {{ row.by
            }}<template v-if="row.until">, until {{ dayOf(row.until) }}</template>
          </span>
          <button
            v-if="mayAuthorise"
            class="plain link small"
            :disabled="busy"
            @click="withdraw(row.id)"
          >
            end authorisation
          </button>
        </li>
        <li v-if="!chosen.authorised.length" class="quiet">no method</li>
      </ul>
      <form v-if="mayAuthorise && chosen.active" class="grant" @submit.prevent="authorise">
        <v-autocomplete
          v-model="granted.method"
          label="Method"
          :items="
            (methods.data.value ?? []).map((each) => ({
              value: each.id,
              title: `${each.title}, ${each.id}`,
            }))
          "
        />
        <DayField v-model="granted.until" label="Until (optional)" />
        <ActButton :disabled="busy || !granted.method || granted.until === null"
          >Authorise</ActButton
        >
      </form>
      <PasswordForm
        v-if="mayManage || chosen.id === me?.id"
        :key="chosen.id"
        :person="chosen"
        :own="chosen.id === me?.id"
      />
    </section>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 250px minmax(0, 1fr);
  gap: 34px;
  max-width: 1120px;
}

aside,
.pane,
form {
  display: grid;
  gap: 14px;
  align-content: start;
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

li button:not(.link) {
  display: grid;
  width: 100%;
  min-height: 52px;
  align-content: center;
  padding: 5px 10px 5px 12px;
  border-bottom: 1px solid var(--hair);
  border-left: 4px solid transparent;
  line-height: 1.25;
  text-align: left;
}

li button.open:not(.link) {
  border-left-color: var(--blue);
  background: var(--sunk);
}

.name {
  font-weight: 600;
}

.gone {
  opacity: 0.65;
}

.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  gap: 12px 16px;
}

.acts {
  display: flex;
  gap: 10px;
}

.granted li {
  display: grid;
  grid-template-columns: 160px minmax(0, 1fr) auto;
  gap: 14px;
  align-items: baseline;
  padding: 6px 0;
  border-top: 1px solid var(--hair);
}

.grant {
  grid-template-columns: minmax(0, 1fr) 200px auto;
  align-items: center;
}

@media (max-width: 1100px) {
  .two {
    grid-template-columns: 200px minmax(0, 1fr);
    gap: 22px;
  }
}
</style>
