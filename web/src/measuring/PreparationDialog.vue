<script setup lang="ts">
import { t } from '@/ui/words'
import ActButton from '@/ui/ActButton.vue'
import { ref, watch } from 'vue'
import { ask, client, type Schemas } from '@/api/client'
import { useAct } from '@/api/queries'
import StageFields from '@/measuring/StageFields.vue'
import StateField from '@/measuring/StateField.vue'
import { stagesOf, typedStages, type StageTyped } from '@/measuring/stages'
import DateField from '@/ui/DateField.vue'
import FormDialog from '@/ui/FormDialog.vue'

/** How a test is prepared: as it came or wet, its chain of conditioning periods, and how old its material is. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ testId: number }>()
const { act, refused, busy } = useAct()

const preparation = ref<Schemas['PreparationView'] | null>(null)
const state = ref<'original' | 'wet'>('original')
const stages = ref<StageTyped[]>([])
const own = ref(false)
const made = ref<string | null>('')

function show(view: Schemas['PreparationView']) {
  preparation.value = view
  state.value = view.state === 'wet' ? 'wet' : 'original'
  own.value = view.changed
  stages.value = typedStages(view.stages)
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
async function done() {
  const kept = await act(() =>
    ask(
      client.PUT('/api/tests/{test_id}/preparation', {
        params: { path: { test_id: props.testId } },
        body: {
          state: state.value,
          stages: own.value ? stagesOf(stages.value) : null,
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
      <StateField v-model="state" />
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
    <StageFields
      v-if="own && preparation"
      v-model="stages"
      :atmospheres="preparation.atmospheres"
      @usual="own = false"
    />
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

.link {
  min-height: 44px;
}
</style>
