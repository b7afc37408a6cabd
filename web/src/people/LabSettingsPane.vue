<script setup lang="ts">
import { t } from '@/ui/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, toRaw, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import { useSession } from '@/app/session'
import LabTables from '@/people/LabTables.vue'
import ActButton from '@/ui/ActButton.vue'
import RefusalNote from '@/ui/RefusalNote.vue'
import { dayOf } from '@/ui/dates'
import DraftNote from '@/ui/DraftNote.vue'
import { useDraft } from '@/ui/drafts'
import FromRecord from '@/ui/FromRecord.vue'

/** The rules of the laboratory: each school with what it means, and every change that there was. */
const props = defineProps<{ mayChange: boolean }>()
const { act, refused, busy } = useAct()
const { look, me } = useSession()
const house = useQuery({ queryKey: ['house'], queryFn: () => ask(client.GET('/api/lab-settings')) })
const typed = reactive<Record<string, string>>({})
const reason = ref('')
const tables = ref<Schemas['LabTables'] | null>(null)
const seen = ref(0)
const draft = useDraft(
  () => 'lab-settings',
  () => ({ typed, reason: reason.value, tables: tables.value, seen: seen.value }),
  (kept) => {
    Object.assign(typed, kept.typed)
    reason.value = kept.reason
    tables.value = kept.tables
    seen.value = kept.seen
  },
)
watch(
  () => house.data.value,
  (view) => {
    if (!view || draft.isUnsaved()) return
    seen.value = view.revision
    Object.assign(typed, { name: view.name, address: view.address })
    for (const rule of view.rules) typed[rule.name] = rule.value
    tables.value = structuredClone(toRaw(view.tables))
    draft.begin()
  },
  { immediate: true },
)
const TITLES: Record<string, string> = {
  rounding: t('people.rounding-of-ties'),
  comparison: t('people.comparison-with-a-limit'),
  label_school: t('people.specimen-labels'),
  conditioning_policy: t('people.after-an-excursion'),
  retest_by: t('people.retest-allowed-by'),
  supervisor_releases: t('people.supervisors-may-release-what-they'),
  decimal_sign: t('people.decimal-sign'),
  date_style: t('people.date-format'),
  units: t('people.units-of-results'),
}
const proposed = computed(() => house.data.value?.proposed ?? null)
const mayAnswer = computed(() => me.value?.may.includes('equip') ?? false)
const isMine = computed(() => proposed.value?.by_id === me.value?.id)
const answer = (verb: 'confirm' | 'decline') =>
  act(async () => {
    const body = { revision: house.data.value!.revision }
    await ask(client.POST(`/api/lab-settings/${verb}`, { body }))
    await look()
  })
const rules = computed(() => house.data.value?.rules ?? [])
async function save() {
  const body = {
    ...typed,
    tables: tables.value,
    revision: seen.value,
    reason: reason.value,
  } as Schemas['LabSettingsRequest']
  await act(async () => {
    await ask(client.PUT('/api/lab-settings', { body }))
    reason.value = ''
    draft.saved()
    await look()
  })
}
</script>

<template>
  <FromRecord v-if="!house.data.value" :query="house" />
  <form v-else class="pane" @submit.prevent="save">
    <h2>{{ t('people.lab-settings') }}</h2>
    <p class="quiet">
      {{ t('people.a-job-uses-the-settings-that-applied') }}
    </p>
    <div v-if="proposed" class="flag small" role="status">
      <p>
        <b>{{ t('people.waiting-for-confirmation') }}</b>
        {{
          t('people.proposed-by-on', {
            text: proposed.text,
            by: proposed.by,
            at: dayOf(proposed.at),
            reason: proposed.reason,
          })
        }}
      </p>
      <p v-if="mayAnswer && isMine" class="quiet">
        {{ t('people.another-reviewer-or-manager-has-to') }}
      </p>
      <div v-if="mayAnswer" class="answers">
        <ActButton v-if="!isMine" type="button" :disabled="busy" @click="answer('confirm')">{{
          t('people.confirm-change')
        }}</ActButton>
        <ActButton type="button" :disabled="busy" @click="answer('decline')">{{
          isMine ? t('people.withdraw-proposal') : t('people.decline-change')
        }}</ActButton>
      </div>
    </div>
    <DraftNote :draft="draft" />
    <div class="pair">
      <v-text-field
        v-model="typed.name"
        :label="t('people.laboratory')"
        :disabled="!props.mayChange"
      />
      <v-text-field
        v-model="typed.address"
        :label="t('people.address')"
        :disabled="!props.mayChange"
      />
    </div>
    <fieldset v-for="rule in rules" :key="rule.name">
      <legend>{{ TITLES[rule.name] ?? rule.name }}</legend>
      <v-radio-group v-model="typed[rule.name]" :disabled="!props.mayChange">
        <v-radio v-for="school in rule.schools" :key="school.value" :value="school.value">
          <template #label>
            <span
              ><b>{{ school.value.replace(/-/g, ' ') }}</b
              ><br /><span class="small quiet">{{ school.text }}</span></span
            >
          </template>
        </v-radio>
      </v-radio-group>
    </fieldset>
    <LabTables
      v-if="tables"
      v-model="tables"
      :house="house.data.value"
      :may-change="props.mayChange"
    />
    <template v-if="props.mayChange">
      <v-text-field v-model="reason" :label="t('people.reason')" maxlength="300" />
      <RefusalNote v-model="refused" />
      <ActButton :disabled="busy || !reason.trim()">{{
        t('people.save-or-propose-change')
      }}</ActButton>
    </template>
    <p v-for="change in house.data.value.changes" :key="change.at" class="small quiet">
      {{ dayOf(change.at) }}: {{ change.text }}
    </p>
  </form>
</template>

<style scoped>
.pane {
  display: grid;
  gap: 14px;
  align-content: start;
}

.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
}

.flag p + * {
  margin-top: 8px;
}

.answers {
  display: flex;
  gap: 10px;
}

fieldset {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 20px;
  padding: 0;
  border: 0;
}

legend {
  padding-bottom: 4px;
  font-weight: 700;
}

label {
  display: grid;
  grid-template-columns: 22px minmax(0, 1fr);
  gap: 8px;
  line-height: 1.3;
}

input[type='radio'] {
  width: 18px;
  height: 18px;
  accent-color: var(--blue);
}

.act {
  justify-self: start;
}
</style>
