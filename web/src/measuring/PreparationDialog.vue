<script setup lang="ts">
import { t } from '@/ui/words'
import { figureFrom } from '@/ui/numbers'
import ActButton from '@/ui/ActButton.vue'
import { computed, ref, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import DateField from '@/ui/DateField.vue'
import FormDialog from '@/ui/FormDialog.vue'

/** How a test is prepared: as it came or wet, its chain of conditioning periods, and how old its material is. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ testId: number }>()
const { act, refused, busy } = useAct()

type Stage = { atmosphere: string; least: string; wait: string; why: string }
const preparation = ref<Schemas['PreparationView'] | null>(null)
const state = ref<'original' | 'wet'>('original')
const stages = ref<Stage[]>([])
const own = ref(false)
const made = ref<string | null>('')

function show(view: Schemas['PreparationView']) {
  preparation.value = view
  state.value = view.state === 'wet' ? 'wet' : 'original'
  own.value = view.changed
  stages.value = view.stages.map((stage) => ({
    atmosphere: stage.atmosphere,
    least: String(stage.least_minutes),
    wait: stage.most_wait_minutes === null ? '' : String(stage.most_wait_minutes),
    why: stage.why,
  }))
  made.value = view.made_at ?? ''
}
watch(open, (now) => {
  if (now)
    void act(async () =>
      show(
        await ask(
          client.GET('/api/tests/{test_id}/preparation', {
            params: { path: { test_id: props.testId } },
          }),
        ),
      ),
    )
})
const choices = computed(() =>
  Object.entries(preparation.value?.atmospheres ?? {}).map(([value, title]) => ({ value, title })),
)
const number = figureFrom

function addStage() {
  stages.value.push({ atmosphere: 'chamber', least: '30', wait: '', why: '' })
  own.value = true
}
async function done() {
  const kept = await act(() =>
    ask(
      client.PUT('/api/tests/{test_id}/preparation', {
        params: { path: { test_id: props.testId } },
        body: {
          state: state.value,
          stages: own.value
            ? stages.value.map((stage) => ({
                atmosphere: stage.atmosphere,
                least_minutes: number(stage.least),
                most_wait_minutes: stage.wait.trim() ? number(stage.wait) : null,
                why: stage.why,
              }))
            : null,
          made_at: made.value || null,
          revision: preparation.value!.revision,
        },
      }),
    ),
  )
  if (kept) open.value = false
}
</script>

<template>
  <FormDialog
    v-model="open"
    v-model:refused="refused"
    :title="t('measuring.preparation', { title: preparation?.title })"
    :action="t('measuring.save-preparation')"
    :wide="720"
    :disabled="busy || !preparation || made === null"
    @confirm="done"
  >
    <div class="row">
      <v-radio-group v-model="state" inline :aria-label="t('measuring.state-of-the-specimens')">
        <v-radio value="original" :label="t('measuring.as-received')" />
        <v-radio value="wet" :label="t('measuring.wet-from-the-water-bath')" />
      </v-radio-group>
    </div>
    <p v-if="preparation && !own" class="quiet">
      {{
        t('measuring.the-method-asks-for', {
          usual:
            preparation.usual.map((stage) => stage.text).join('; ') ||
            t('measuring.no-conditioning'),
        })
      }}
      <template v-if="state !== preparation.state">
        {{ t('measuring.wet-specimens-are-soaked-instead') }}</template
      >
      <ActButton type="button" kind="link" @click="own = true">{{
        t('measuring.change-stages')
      }}</ActButton>
    </p>
    <template v-if="own">
      <div v-for="(stage, place) in stages" :key="place" class="stage">
        <v-select
          v-model="stage.atmosphere"
          :items="choices"
          :label="t('measuring.stage', { place: place + 1 })"
        />
        <v-text-field
          v-model="stage.least"
          class="mono"
          :label="t('measuring.at-least')"
          suffix="min"
        />
        <v-text-field
          v-model="stage.wait"
          class="mono"
          :label="t('measuring.next-step-within')"
          suffix="min"
        />
        <ActButton type="button" kind="link" @click="stages.splice(place, 1)">{{
          t('measuring.remove')
        }}</ActButton>
      </div>
      <div class="row">
        <ActButton type="button" @click="addStage">{{ t('measuring.add-stage') }}</ActButton>
        <ActButton type="button" kind="link" @click="own = false">
          {{ t('measuring.use-the-stages-of-the-method') }}
        </ActButton>
      </div>
      <p class="quiet small">
        {{ t('measuring.other-stages-than-those-of-the-method') }}
      </p>
    </template>
    <template v-if="preparation?.age_event">
      <DateField
        v-model="made"
        with-time
        :label="t('measuring.time-of', { age_event: preparation.age_event })"
      />
      <p class="quiet small">{{ t('measuring.tested', { age_text: preparation.age_text }) }}</p>
    </template>
  </FormDialog>
</template>

<style scoped>
label {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 44px;
}

.stage {
  display: grid;
  grid-template-columns: 1.5fr 1fr 1fr auto;
  gap: 10px;
  align-items: start;
}

.link {
  min-height: 44px;
}
</style>
