<script setup lang="ts">
import { t } from '@/ui/words'
import { useQueryClient } from '@tanstack/vue-query'
import FloatingNote from '@/app/FloatingNote.vue'
import ActButton from '@/ui/ActButton.vue'
import { useUndo } from '@/ui/undo'

/** What was done last, with its undo for a minute, above the clocks of every screen. */
const { offer, outcome, busy, undo, dismiss } = useUndo()
const queries = useQueryClient()

async function takeBack() {
  await undo()
  await queries.invalidateQueries()
}
</script>

<template>
  <FloatingNote
    v-if="offer || outcome"
    :text="offer ? offer.text : outcome"
    side="right"
    @close="dismiss"
  >
    <ActButton v-if="offer" kind="link" :disabled="busy" @click="takeBack">{{
      t('app.undo')
    }}</ActButton>
  </FloatingNote>
</template>
