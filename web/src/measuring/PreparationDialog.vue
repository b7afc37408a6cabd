<script setup lang="ts">
import { figureFrom } from '@/ui/numbers'
import ActButton from '@/ui/ActButton.vue'
import { computed, ref, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import RefusalNote from '@/ui/RefusalNote.vue'
import { useAct } from '@/api/queries'
import { momentFrom, written } from '@/ui/words'

/** How a test is prepared: as it came or wet, its chain of stays, and how old its material is. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ testId: number }>()
const { act, refused, busy } = useAct()

type Stage = { atmosphere: string; least: string; wait: string; why: string }
const preparation = ref<Schemas['PreparationView'] | null>(null)
const state = ref<'original' | 'wet'>('original')
const stages = ref<Stage[]>([])
const own = ref(false)
const made = ref('')

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
  const at = view.made_at ? new Date(view.made_at) : null
  made.value = at ? written(at) : ''
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
          made_at: momentFrom(made.value)?.toISOString() ?? null,
          revision: preparation.value!.revision,
        },
      }),
    ),
  )
  if (kept) open.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="720">
    <form class="leaf" @submit.prevent="done">
      <h2>Preparation: {{ preparation?.title }}</h2>
      <div class="row">
        <label><input v-model="state" type="radio" value="original" /> as received</label>
        <label><input v-model="state" type="radio" value="wet" /> wet, from the water bath</label>
      </div>
      <p v-if="preparation && !own" class="quiet">
        The method asks for
        {{ preparation.usual.map((stage) => stage.words).join('; ') || 'no conditioning' }}.
        <template v-if="state !== preparation.state"> Wet specimens are soaked instead.</template>
        <button type="button" class="plain link" @click="own = true">change stages</button>
      </p>
      <template v-if="own">
        <div v-for="(stage, place) in stages" :key="place" class="stage">
          <v-select v-model="stage.atmosphere" :items="choices" :label="`Stage ${place + 1}`" />
          <v-text-field v-model="stage.least" class="mono" label="At least" suffix="min" />
          <v-text-field v-model="stage.wait" class="mono" label="Next step within" suffix="min" />
          <button type="button" class="plain link" @click="stages.splice(place, 1)">remove</button>
        </div>
        <div class="row">
          <ActButton type="button" @click="addStage">Add stage</ActButton>
          <button type="button" class="plain link" @click="own = false">
            use the stages of the method
          </button>
        </div>
        <p class="quiet small">
          Other stages than those of the method are stated in the report as a deviation.
        </p>
      </template>
      <template v-if="preparation?.age_event">
        <v-text-field
          v-model="made"
          :label="`Moment of ${preparation.age_event}, as 20 Nov 2026, 16:00`"
          :error-messages="
            made && !momentFrom(made)
              ? 'enter a day and a time, such as 20 Nov 2026, 16:00'
              : undefined
          "
          :hint="`Tested ${preparation.age_words}`"
          persistent-hint
        />
      </template>
      <RefusalNote v-model="refused" />
      <footer>
        <ActButton type="button" @click="open = false">Cancel</ActButton>
        <ActButton
          kind="main"
          :disabled="busy || !preparation || (made !== '' && !momentFrom(made))"
        >
          Save preparation
        </ActButton>
      </footer>
    </form>
  </v-dialog>
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
