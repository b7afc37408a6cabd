<script setup lang="ts">
import { t } from '@/ui/words'
import { computed } from 'vue'
import type { AreaTool } from '@/cutting/areas'
import ActButton from '@/ui/ActButton.vue'

/** With what an area is marked, and why nothing may be cut there. */
const tool = defineModel<AreaTool | null>('tool', { required: true })
const reason = defineModel<string>('reason', { required: true })
const bandMm = defineModel<string>('bandMm', { required: true })
const REASONS = ['crease', 'stain', 'hole', 'fold', 'splice', 'wrinkle']
const TOOLS: [AreaTool, string, string][] = [
  ['box', t('cutting.box'), t('cutting.drag-a-box-over-it')],
  ['band', t('cutting.band-along-a-crease'), t('cutting.drag-along-the-crease-from-end-to-end')],
  ['polygon', t('cutting.any-outline'), t('cutting.click-each-corner-enter-or-a-double')],
]
const hint = computed(() => TOOLS.find(([name]) => name === tool.value)?.[2] ?? '')
</script>

<template>
  <div class="marking">
    <div class="chips">
      <ActButton
        v-for="[name, text] in TOOLS"
        :key="name"
        kind="plain"
        class="chip"
        :class="{ on: tool === name }"
        @click="tool = name"
      >
        {{ text }}
      </ActButton>
      <v-text-field
        v-if="tool === 'band'"
        v-model="bandMm"
        class="mono short"
        density="compact"
        inputmode="decimal"
        :label="t('cutting.width')"
        suffix="mm"
      />
      <span class="quiet small">{{ hint }}</span>
    </div>
    <div class="chips">
      <ActButton
        v-for="choice in REASONS"
        :key="choice"
        kind="plain"
        class="chip"
        :class="{ on: reason === choice }"
        @click="reason = choice"
      >
        {{ choice }}
      </ActButton>
      <v-text-field
        v-model="reason"
        class="reason"
        density="compact"
        maxlength="60"
        :label="t('cutting.reason')"
      />
    </div>
  </div>
</template>

<style scoped>
.marking {
  display: grid;
  gap: 6px;
  margin-top: 8px;
}

.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}

.chip {
  min-height: 36px;
  padding: 0 12px;
  border: 1px solid var(--ink-3);
  border-radius: 18px;
}

.chip.on {
  border-color: var(--brick);
  color: var(--brick);
  font-weight: 700;
}

.chips input {
  min-height: 36px;
  padding: 0 8px;
  border: 1px solid var(--ink-3);
  border-radius: 6px;
  background: var(--page);
  color: var(--ink);
}

.reason {
  width: 130px;
}
</style>
