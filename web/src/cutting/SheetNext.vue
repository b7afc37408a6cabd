<script setup lang="ts">
import { t } from '@/ui/words'
import type { BrokenRule, SheetView } from '@/api/client'
import type { CuttingStep } from '@/cutting/cuttingStep'
import { PLACING_S } from '@/cutting/placing'
import ActButton from '@/ui/ActButton.vue'
import RefusalNote from '@/ui/RefusalNote.vue'

/** What to do next with the sheet, and what is wrong with it as it lies. */
defineProps<{
  sheet: SheetView
  next: CuttingStep | null
  broken: BrokenRule[]
  placing: number
  busy: boolean
}>()
const refused = defineModel<string>('refused', { required: true })
</script>

<template>
  <ActButton
    v-if="next"
    kind="main"
    class="wide"
    :disabled="busy || sheet.released"
    @click="next.go()"
  >
    {{ placing ? t('cutting.placing') : busy ? t('cutting.at-it') : next.text }}
    <kbd>{{ t('cutting.enter') }}</kbd>
  </ActButton>
  <div v-if="placing" class="progress" role="progressbar">
    <span :style="{ width: `${Math.min((100 * placing) / PLACING_S, 100)}%` }" />
    <p class="quiet small">
      {{
        placing > PLACING_S
          ? t('cutting.checking-every-rule')
          : t('cutting.searching-the-shortest-length')
      }}
    </p>
  </div>
  <p v-else-if="next?.why" class="why">{{ next.why }}</p>
  <RefusalNote v-model="refused" />
  <div v-if="broken.length" class="warned" role="alert">
    <h3>
      {{
        broken.length === 1
          ? t('cutting.a-rule-is-broken')
          : t('cutting.rules-are-broken', { broken: broken.length })
      }}
    </h3>
    <p v-for="(rule, place) in broken.slice(0, 5)" :key="place">{{ rule.sentence }}.</p>
  </div>
  <p v-if="sheet.shortage && sheet.left_to_cut" class="warned" role="alert">
    {{ sheet.shortage }}.
  </p>
  <p v-for="line in sheet.crossings" :key="line" class="small quiet">{{ line }}.</p>
</template>

<style scoped>
.wide {
  flex: none;
  width: 100%;
  justify-content: flex-start;
}

.why {
  color: var(--ink-2);
}

.progress span {
  display: block;
  height: 7px;
  background: repeating-linear-gradient(90deg, var(--tape) 0 9px, transparent 9px 10px);
}
</style>
