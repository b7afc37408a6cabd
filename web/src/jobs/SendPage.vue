<script setup lang="ts">
import { t } from '@/ui/words'
import { vFocus } from '@/ui/focus'
import { figureFrom, fixed } from '@/ui/numbers'
import ActButton from '@/ui/ActButton.vue'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { MethodLine } from '@/api/client'
import HatchPatterns from '@/ui/HatchPatterns.vue'
import SheetDrawing from '@/cutting/SheetDrawing.vue'
import StateNote from '@/ui/StateNote.vue'
import { useRequiredSize } from '@/jobs/requiredSize'
import { useKeys } from '@/ui/keys'
import { useMethods } from '@/api/queries'

/** Before anything arrives: which tests, how wide the roll, and how much of it to ask for. */
const router = useRouter()
const methods = useMethods()
const width = ref('1500')
const picked = ref<string | null>(null)
const ticked = ref<{ method: MethodLine; count: string }[]>([])

const choices = computed(() =>
  (methods.data.value ?? []).map((method) => ({
    value: method.id,
    title: `${method.title}, ${method.id}`,
  })),
)
function add(id: string | null) {
  const method = methods.data.value?.find((method) => method.id === id)
  if (method && !ticked.value.some((requested) => requested.method.id === id))
    ticked.value.push({ method, count: String(method.specimens_per_direction) })
  picked.value = null
}

const widthMm = computed(() => figureFrom(width.value))
const requested = computed(() =>
  ticked.value.length && widthMm.value > 0
    ? {
        width_mm: widthMm.value,
        seconds: 1.5,
        tests: ticked.value.map((requested) => ({
          method: requested.method.id,
          specimens_wanted: Number.parseInt(requested.count) || null,
          parameters: {},
        })),
      }
    : null,
)
const { requiredSize, mistake, looking } = useRequiredSize(requested)
const number = (id: string) =>
  requiredSize.value?.sheet?.tests.findIndex((test) => test.method === id) ?? -1

function receive() {
  const tests = ticked.value.map((requested) => requested.method.id).join(',')
  void router.push(`/jobs/new?tests=${tests}&width=${widthMm.value}`)
}
useKeys(() => [
  { key: 'Enter', text: t('jobs.receive-sample-2'), act: () => ticked.value.length && receive() },
])
</script>

<template>
  <div class="send">
    <section>
      <h1>{{ t('jobs.required-sample-size-2') }}</h1>
      <p class="quiet">{{ t('jobs.choose-the-tests-and-enter-the-width-of') }}</p>
      <v-text-field
        v-model="width"
        class="mono"
        :label="t('jobs.width-of-the-roll')"
        suffix="mm"
        inputmode="decimal"
        :error-messages="widthMm > 0 ? undefined : t('jobs.enter-a-width-above-0-mm')"
      />
      <svg width="0" height="0" class="defs" aria-hidden="true">
        <HatchPatterns :tests="requiredSize?.sheet?.tests ?? []" name="send" :unit="0.7" />
      </svg>
      <ul class="ticked">
        <li v-for="(choice, place) in ticked" :key="choice.method.id">
          <svg width="30" height="18" aria-hidden="true">
            <rect
              x=".7"
              y=".7"
              width="28.6"
              height="16.6"
              class="swatch"
              :fill="
                number(choice.method.id) < 0 ? 'none' : `url(#send-${number(choice.method.id)})`
              "
            />
          </svg>
          <span>
            {{ choice.method.title }}
            <span class="mono small quiet">{{ choice.method.id }}</span><br />
            <span class="quiet small">{{ choice.method.size_text }}</span>
          </span>
          <v-text-field
            v-model="choice.count"
            class="mono count"
            density="compact"
            inputmode="numeric"
            :label="
              choice.method.directions.length > 1 ? t('jobs.per-direction-3') : t('jobs.specimens')
            "
            :suffix="`+ ${choice.method.spares_per_direction}`"
          />
          <ActButton
            kind="plain"
            class="small"
            :aria-label="t('jobs.remove-2', { title: choice.method.title })"
            @click="ticked.splice(place, 1)"
          >
            {{ t('jobs.remove') }}
          </ActButton>
        </li>
      </ul>
      <v-autocomplete
        :key="ticked.length"
        v-focus
        :model-value="picked"
        :items="choices"
        :label="ticked.length ? t('jobs.add-test') : t('jobs.test-by-name-or-number')"
        @update:model-value="add"
      />
    </section>
    <section class="answer" aria-live="polite">
      <p v-if="mistake" class="text" role="alert">{{ mistake }}.</p>
      <template v-else-if="requiredSize">
        <div class="figures">
          <p class="figure">
            <template v-if="requiredSize.ask_for_mm">
              <span class="mono">{{ fixed(requiredSize.ask_for_mm / 1000, 2) }} m</span>
              <span class="of">{{ t('jobs.of-the-mm-wide-roll', { width }) }}</span>
            </template>
          </p>
          <ActButton kind="main" @click="receive"
            >{{ t('jobs.receive-sample') }} <kbd>{{ t('jobs.enter') }}</kbd></ActButton
          >
        </div>
        <p v-if="requiredSize.length_needed_mm" class="quiet">
          <i18n-t keypath="jobs.needed-as-drawn" scope="global"
            ><template #length
              ><span class="mono">{{ Math.ceil(requiredSize.length_needed_mm) }} mm</span></template
            ><template #bound
              ><span class="mono">{{ Math.ceil(requiredSize.length_bound_mm) }} mm</span></template
            ></i18n-t
          >
        </p>
        <p v-else class="text" role="alert">{{ requiredSize.relaxation }}.</p>
        <p v-for="line in [...requiredSize.usage, ...requiredSize.pieces]" :key="line" class="also">
          {{ line }}
        </p>
        <div v-if="requiredSize.sheet" class="drawing" :class="{ looking }">
          <SheetDrawing :sheet="requiredSize.sheet" />
        </div>
      </template>
      <p v-else-if="looking" class="quiet">{{ t('jobs.placing-specimens') }}</p>
      <StateNote
        v-else
        :title="t('jobs.no-test-chosen')"
        :text="t('jobs.choose-tests-on-the-left-the-required')"
      />
      <p v-if="looking && requiredSize" class="quiet small again">{{ t('jobs.placing-again') }}</p>
    </section>
  </div>
</template>

<style scoped>
.send {
  display: grid;
  grid-template-columns: minmax(320px, 420px) minmax(0, 1fr);
  gap: 40px;
  height: 100%;
}

section {
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-height: 0;
}

section > .v-input {
  flex: none;
}

.defs {
  position: absolute;
}

.ticked {
  margin: 0;
  padding: 0;
  list-style: none;
}

.ticked li {
  display: grid;
  grid-template-columns: 30px 1fr auto auto;
  gap: 12px;
  align-items: center;
  padding: 7px 0;
  border-bottom: 1px solid var(--hair);
  line-height: 1.25;
}

.swatch {
  stroke: var(--ink);
}

.count {
  width: 124px;
}

.figures {
  display: flex;
  gap: 24px;
  align-items: center;
  justify-content: space-between;
}

.figure .mono {
  font-size: 42px;
  font-weight: 700;
  line-height: 1;
  white-space: nowrap;
}

.of {
  display: block;
  margin-top: 4px;
}

.drawing {
  flex: 1;
  min-height: 300px;
}

.looking {
  opacity: 0.5;
}

.text {
  padding: 9px 14px;
  border-left: 5px solid var(--brick);
  background: var(--sunk);
}

.also {
  padding-left: 14px;
  border-left: 5px solid var(--ochre);
}

@media (max-width: 860px) {
  .send {
    grid-template-columns: 1fr;
    height: auto;
  }
}
</style>
