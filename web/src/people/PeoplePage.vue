<script setup lang="ts">
import { t } from '@/ui/words'
import { vFocus } from '@/ui/focus'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { useSession } from '@/app/session'
import AuthorisedMethods from '@/people/AuthorisedMethods.vue'
import HoursForm from '@/people/HoursForm.vue'
import LabSettingsPane from '@/people/LabSettingsPane.vue'
import PasswordForm from '@/people/PasswordForm.vue'
import ActButton from '@/ui/ActButton.vue'
import FromRecord from '@/ui/FromRecord.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import DraftNote from '@/ui/DraftNote.vue'
import { useDraft } from '@/ui/drafts'

/** The people of the laboratory: roles, supervisors, passwords, and what each is authorised for. */
type Person = Schemas['PersonView']
const ROLES: Schemas['PersonRequest']['role'][] = ['trainee', 'technician', 'reviewer', 'manager']
const { me } = useSession()
const { act, refused, busy } = useAct()
const people = useQuery({ queryKey: ['people'], queryFn: () => ask(client.GET('/api/people')) })
const picked = ref<number | null>(Number(useRoute().query.id) || null)
const adding = ref(false)
const house = ref(false)
const chosen = computed<Person | null>(() => {
  const all = people.data.value ?? []
  return all.find((each) => each.id === (picked.value ?? me.value?.id)) ?? null
})
const mayManage = computed(() => me.value?.may.includes('manage-people') ?? false)
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
/** All but the password, which is never kept. */
const draft = useDraft(
  () => 'person',
  () => ({ login: fresh.login, name: fresh.name, role: fresh.role }),
  (kept) => Object.assign(fresh, kept),
)
watch(adding, (isOpen) => (isOpen ? draft.begin() : draft.end()), { flush: 'sync' })

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
    draft.saved()
    adding.value = false
    Object.assign(fresh, { login: '', name: '', role: ROLES[1]!, password: '' })
  }
}
</script>

<template>
  <FromRecord v-if="!people.data.value" :query="people" />
  <div v-else class="two">
    <aside>
      <h1>{{ t('people.people') }}</h1>
      <ul>
        <li>
          <ActButton
            kind="plain"
            :class="{ open: house }"
            @click="((house = true), (adding = false))"
          >
            <span class="name">{{ t('people.lab-settings') }}</span>
          </ActButton>
        </li>
        <li v-for="person in people.data.value" :key="person.id">
          <ActButton
            kind="plain"
            :class="{ open: !adding && !house && chosen?.id === person.id, gone: !person.active }"
            @click="((picked = person.id), (adding = false), (house = false))"
          >
            <span class="name">{{ person.name }}</span>
            <span class="small quiet">{{
              person.active ? person.role : t('people.inactive')
            }}</span>
          </ActButton>
        </li>
      </ul>
      <ActButton v-if="mayManage" @click="((adding = true), (house = false))">
        {{ t('people.add-person') }}
      </ActButton>
    </aside>
    <LabSettingsPane v-if="house" :may-change="mayManage" />
    <form v-else-if="adding" class="pane" @submit.prevent="add">
      <h2>{{ t('people.add-person') }}</h2>
      <div class="fields">
        <v-text-field v-model="fresh.name" v-focus :label="t('people.name')" />
        <v-text-field v-model="fresh.login" class="mono" :label="t('people.login')" />
        <v-select v-model="fresh.role" :label="t('people.role')" :items="ROLES" />
        <v-text-field
          v-model="fresh.password"
          type="password"
          :label="t('people.password-at-least-10-characters')"
          autocomplete="new-password"
        />
      </div>
      <DraftNote :draft="draft" />
      <RefusalNote v-model="refused" />
      <ActButton kind="main" :disabled="busy || !fresh.name.trim() || !fresh.login.trim()">
        {{ t('people.add-person') }}
      </ActButton>
    </form>
    <section v-else-if="chosen" class="pane">
      <header>
        <h2>{{ chosen.name }}</h2>
        <p class="quiet">
          {{ t('people.login-2') }} <span class="mono">{{ chosen.login }}</span>
          <template v-if="chosen.supervisor">
            {{ t('people.supervisor', { supervisor: chosen.supervisor }) }}</template
          >
        </p>
      </header>
      <form v-if="mayManage" @submit.prevent="change(chosen.active)">
        <div class="fields">
          <v-text-field v-model="typed.name" :label="t('people.name')" />
          <v-select v-model="typed.role" :label="t('people.role')" :items="ROLES" />
          <v-select
            v-if="typed.role === 'trainee'"
            v-model="typed.supervisor"
            :label="t('people.supervisor-2')"
            :items="[
              { value: 0, title: t('people.none-read-only') },
              ...supervisors.map((each) => ({ value: each.id, title: each.name })),
            ]"
          />
        </div>
        <p class="acts">
          <ActButton :disabled="busy">{{ t('people.save-changes') }}</ActButton>
          <ActButton type="button" :disabled="busy" @click="change(!chosen.active)">
            {{ chosen.active ? t('people.deactivate') : t('people.reactivate') }}
          </ActButton>
        </p>
      </form>
      <RefusalNote v-model="refused" />
      <HoursForm v-if="mayManage && chosen.active" :person="chosen" />
      <AuthorisedMethods :person="chosen" />
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

@media (max-width: 1100px) {
  .two {
    grid-template-columns: 200px minmax(0, 1fr);
    gap: 22px;
  }
}

@media (max-width: 720px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
