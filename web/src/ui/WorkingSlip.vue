<script setup lang="ts">
import { t } from '@/ui/words'
import type { Schemas } from '@/api/client'
import ActButton from '@/ui/ActButton.vue'
/** What opens from a figure: like a till slip, line by line to the figure itself. */
defineProps<{ title: string; lines: Schemas['WorkingRow'][] }>()
const open = defineModel<boolean>({ required: true })
</script>

<template>
  <v-dialog v-model="open" max-width="460">
    <div class="leaf slip mono" role="document">
      <header>
        <strong>{{ title }}</strong>
      </header>
      <section v-for="(line, place) in lines" :key="place">
        <p class="text">{{ line.says }}</p>
        <p class="sum">
          <span class="formula">{{ line.formula }}</span>
        </p>
        <p class="sum">
          <span>= {{ line.with }}</span>
          <b>{{ line.gives }}</b>
        </p>
      </section>
      <p v-if="lines.length === 0" class="text">{{ t('ui.no-result-yet-no-specimen-counts') }}</p>
      <footer>
        <ActButton @click="open = false"
          >{{ t('ui.close') }} <kbd>{{ t('ui.esc') }}</kbd></ActButton
        >
      </footer>
    </div>
  </v-dialog>
</template>

<style scoped>
.leaf.slip {
  padding: 24px 26px 20px;
  font-family: var(--mono);
  font-size: 14px;
  mask:
    linear-gradient(#000 0 0) top / 100% calc(100% - 7px) no-repeat,
    conic-gradient(from 135deg at top, #000 90deg, transparent 0) bottom / 14px 8px repeat-x;
}

header {
  padding-bottom: 10px;
  border-bottom: 1.5px dashed var(--ink-3);
  font-size: 16px;
}

section {
  padding: 10px 0;
  border-bottom: 1px dashed var(--hair);
}

.text {
  font-family: var(--text);
  font-size: 15px;
}

.sum {
  display: flex;
  justify-content: space-between;
  gap: 18px;
  overflow-wrap: anywhere;
}

.sum b {
  flex: none;
  white-space: nowrap;
}

.formula {
  color: var(--ink-2);
}

footer {
  display: flex;
  justify-content: flex-end;
  padding: 16px 0 8px;
}
</style>
