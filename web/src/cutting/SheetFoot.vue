<script setup lang="ts">
import { t } from '@/ui/words'
import type { SheetView } from '@/api/client'
import type { TypedRules } from '@/cutting/placing'
import { fixed } from '@/ui/numbers'
import ActButton from '@/ui/ActButton.vue'

/** How much of the sheet is needed, and the rules that it is placed by. */
defineProps<{
  sheet: SheetView
  open: boolean
  breakable: boolean
}>()
defineEmits<{ rules: [] }>()
/** A length as a share of the sheet, in percent. */
const share = (length: number | null, of: number | null) =>
  of ? Math.min((100 * (length ?? 0)) / of, 100) : 0
const rules = defineModel<TypedRules | null>('typed', { required: true })
const wholeRoll = defineModel<boolean>('wholeRoll', { required: true })
const RULES = [
  ['end_margin_mm', t('cutting.ends')],
  ['kerf_mm', t('cutting.cut')],
  ['clearance_mm', t('cutting.clearance')],
] as const
</script>

<template>
  <p class="quiet small under">
    <span v-if="sheet.length_needed_mm">
      <i18n-t keypath="cutting.of-needed" scope="global"
        ><template #needed
          ><span class="mono">{{ Math.ceil(sheet.length_needed_mm) }} mm</span></template
        ><template #length
          ><span class="mono">{{ fixed(sheet.length_mm, 0) }} mm</span></template
        ><template #bound
          ><span class="mono">{{ Math.ceil(sheet.length_bound_mm ?? 0) }} mm</span></template
        ></i18n-t
      >
      <svg class="length" viewBox="0 0 100 6" preserveAspectRatio="none" aria-hidden="true">
        <path d="M0 3h100" class="sheet" />
        <path :d="`M0 3h${share(sheet.length_needed_mm, sheet.length_mm)}`" class="needed" />
        <path :d="`M${share(sheet.length_bound_mm, sheet.length_mm)} 0v6`" class="bound" />
      </svg>
    </span>
    <ActButton v-if="breakable" kind="link" @click="wholeRoll = !wholeRoll">
      {{ wholeRoll ? t('cutting.show-used-length') : t('cutting.show-whole-length') }}
    </ActButton>
    <ActButton v-if="open" kind="link" @click="$emit('rules')">
      {{
        t('cutting.cut-mm-ends-mm-clear-of-areas-mm', {
          kerf_mm: sheet.kerf_mm,
          end_margin_mm: sheet.end_margin_mm,
          clearance_mm: sheet.clearance_mm,
        })
      }}
    </ActButton>
  </p>
  <div v-if="rules && open" class="chips rules-typed">
    <v-text-field
      v-for="[name, label] in RULES"
      :key="name"
      v-model="rules[name]"
      class="mono short"
      density="compact"
      :label="label"
      suffix="mm"
    />
    <span class="quiet small">{{ t('cutting.applied-when-the-specimens-are-placed') }}</span>
  </div>
</template>

<style scoped>
.under {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  align-items: center;
}

.length {
  display: block;
  width: 320px;
  max-width: 100%;
  height: 8px;
  margin-top: 4px;
  overflow: visible;
}

.length path {
  stroke-width: 6px;
  vector-effect: non-scaling-stroke;
}

.length .sheet {
  stroke: var(--hair);
}

.length .needed {
  stroke: var(--blue);
}

.length .bound {
  stroke: var(--ink);
  stroke-width: 2px;
}

.rules-typed {
  gap: 16px;
  margin-top: 4px;
  font-size: 14px;
}
</style>
