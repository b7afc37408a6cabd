<script setup lang="ts">
import { t } from '@/ui/words'
import ActButton from '@/ui/ActButton.vue'

/** A question mark in a field: it shows and hides what the field means. F1 in the field does the same. */
const open = defineModel<boolean>({ required: true })
</script>

<template>
  <ActButton
    type="button"
    kind="plain"
    class="help"
    tabindex="-1"
    :aria-label="t('ui.what-this-field-means')"
    :aria-expanded="open"
    @click.stop="open = !open"
  >
    ?
  </ActButton>
</template>

<style scoped>
.help {
  width: 24px;
  min-height: 24px;
  border: 1px solid var(--hair);
  border-radius: 50%;
  color: var(--ink-2);
  font-size: 14px;
}
</style>
