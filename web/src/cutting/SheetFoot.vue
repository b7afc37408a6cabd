<script setup lang="ts">
import type { SheetView } from '@/api/client'
import type { TypedRules } from '@/cutting/placing'
import { fixed } from '@/ui/numbers'

/** How much of the sheet is needed, and the rules that it is placed by. */
defineProps<{
  sheet: SheetView
  open: boolean
  breakable: boolean
}>()
defineEmits<{ rules: [] }>()
const rules = defineModel<TypedRules | null>('typed', { required: true })
const wholeRoll = defineModel<boolean>('wholeRoll', { required: true })
</script>

<template>
  <p class="quiet small under">
    <span v-if="sheet.length_needed_mm">
      <span class="mono">{{ Math.ceil(sheet.length_needed_mm) }} mm</span> of
      <span class="mono">{{ fixed(sheet.length_mm, 0) }} mm</span> needed; the shortest possible is
      <span class="mono">{{ Math.ceil(sheet.length_bound_mm ?? 0) }} mm</span>.
    </span>
    <button v-if="breakable" class="plain link" @click="wholeRoll = !wholeRoll">
      {{ wholeRoll ? 'Show used length' : 'Show whole length' }}
    </button>
    <button v-if="open" class="plain link" @click="$emit('rules')">
      Cut {{ sheet.kerf_mm }} mm, ends {{ sheet.end_margin_mm }} mm, clear of areas
      {{ sheet.clearance_mm }} mm
    </button>
  </p>
  <div v-if="rules && open" class="chips rules-typed">
    <label>ends <input v-model="rules.end_margin_mm" class="mono" size="4" /> mm</label>
    <label>cut <input v-model="rules.kerf_mm" class="mono" size="4" /> mm</label>
    <label>clear of areas <input v-model="rules.clearance_mm" class="mono" size="4" /> mm</label>
    <span class="quiet small">applied when the specimens are placed again</span>
  </div>
</template>

<style scoped>
.under {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  align-items: center;
}

.rules-typed {
  gap: 16px;
  margin-top: 4px;
  font-size: 14px;
}
</style>
